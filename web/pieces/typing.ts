/** Where keys belong to what is typed or chosen, and not to the page. */
const typing = 'input, textarea, select, [role=listbox], [role=dialog], [role=presentation], .MuiPopover-root';

/** Whether a key is meant for what is being typed into or chosen from. */
export const isTypedInto = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest(typing) !== null;
