/** Keys, by where they act: the sheet on `?` shows them all. */
export const keySheet: readonly { where: string; keys: readonly (readonly [keys: string, does: string])[] }[] = [
  {
    where: 'On every page',
    keys: [
      ['Ctrl+K', 'Find a source, a page or an action'],
      ['?', 'Show these keys'],
      ['Ctrl+Enter', 'Run, on Convert and Rename'],
      ['Ctrl+Z', 'Undo the rename that was just done'],
      ['Tab', 'Next control; the first one skips to the page'],
      ['Esc', 'Close a menu or a dialog'],
    ],
  },
  {
    where: 'Source list',
    keys: [
      ['Up, Down, Page Up, Page Down', 'Previous or next source'],
      ['Home, End', 'First or last source'],
      ['Space', 'Select or clear the source'],
      ['Shift+Down', 'Select a range'],
      ['Ctrl+A', 'Select all'],
      ['Esc', 'Clear the selection'],
      ['Enter', 'Open on Inspect'],
      ['C', 'Convert'],
      ['R', 'Rename'],
      ['D', 'Declare'],
    ],
  },
  {
    where: 'Stage and strip',
    keys: [
      ['Space', 'Play or pause'],
      ['Left, Right', 'Previous or next frame'],
      ['Page Up, Page Down', 'Ten frames, on the strip'],
      ['Home, End', 'First or last frame'],
      ['[, ]', 'Repeat from here, repeat to here'],
      ['Esc', 'Play all frames again'],
      ['+, -', 'Zoom in or out'],
      ['0, 1', 'Fit, or actual pixels'],
    ],
  },
  {
    where: 'Lists that can be reordered',
    keys: [['Space, Up, Down, Space', 'Pick up, move, drop']],
  },
];
