import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Popover from '@mui/material/Popover';
import { useTheme } from '@mui/material/styles';
import { useState, type ReactNode } from 'react';
import type { Control, SentencePart } from '@shale/core';
import { afterSentence } from './after.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { wholeSwitched } from '../state/view.ts';
import { mono } from '../theme/theme.ts';

interface Props {
  /** At its shortest, or with what stays as it is. */
  tell: (whole: boolean) => readonly SentencePart[];
  /** What a pressed part opens; undefined where it is only told. @param output which of several it speaks of, from 0 */
  editor: (control: Control, close: () => void, output: number) => ReactNode | undefined;
  /** Takes a press that opens something elsewhere on the page; says whether it did. */
  onPress?: (control: Control, output: number) => boolean;
  /** What stands behind the last word. */
  after?: ReactNode;
  /** Of the letters, in pixels. */
  size?: number;
}

const names: Record<Control, string> = {
  source: 'Source',
  shots: 'Shots that follow',
  frames: 'Frames',
  rate: 'Rate',
  alpha: 'Alpha of the source',
  transfer: 'Transfer of the source',
  picture: 'Picture operations',
  time: 'Time',
  clip: 'How the clip is read',
  missing: 'Missing frames',
  damaged: 'Damaged frames',
  mixed: 'Pictures that differ',
  format: 'Format and depth',
  video: 'How the video is written',
  sound: 'What is heard',
  burn: 'Text in the pictures',
  alphaOut: 'Alpha and transfer of the result',
  name: 'Names',
  first: 'First number',
  into: 'Folder',
  existing: 'Names that exist',
  receiver: 'Receiver',
  size: 'Size',
  limit: 'Bytes, at most',
  gives: 'What may be given up',
  edge: 'Soft edges',
  plays: 'How often it plays',
};

/** Parts whose editors need room. */
const wide: ReadonlySet<Control> = new Set(['time', 'shots', 'source']);

/** A spec read aloud, whose parts are the controls: press one to change it. */
export function Sentence({ tell, editor, onPress, after, size = 23 }: Props) {
  const { tokens } = useTheme();
  const [open, setOpen] = useState<{ control: Control; output: number; index: number; anchor: HTMLElement } | null>(
    null,
  );
  const close = () => setOpen(null);
  const dispatch = useAppDispatch();
  const whole = useAppSelector(({ view }) => view.whole);
  const [short, full] = [tell(false), tell(true)];
  const parts = whole ? full : short;
  return (
    <Box component="p" sx={{ fontSize: size, lineHeight: 1.62, letterSpacing: '-.005em', m: 0, maxWidth: 1180 }}>
      <span data-testid="sentence">
        {parts.map(({ text, stop, control, doubt, mono: isMono, output = 0 }, index) =>
          control ? (
            // A line may break within the control, never between it and its mark.
            <Box component="span" key={index} sx={{ whiteSpace: 'nowrap' }}>
              <ButtonBase
                aria-label={`${names[control]}${output > 0 ? ` of output ${output + 1}` : ''}: ${text}`}
                aria-haspopup="dialog"
                aria-expanded={open?.index === index}
                onClick={({ currentTarget }) => {
                  if (!onPress?.(control, output)) setOpen({ control, output, index, anchor: currentTarget });
                }}
                sx={{
                  font: 'inherit',
                  fontFamily: isMono ? mono : 'inherit',
                  fontSize: isMono ? '0.87em' : 'inherit',
                  fontWeight: 620,
                  letterSpacing: 'inherit',
                  lineHeight: 1.25,
                  px: '1px',
                  verticalAlign: 'baseline',
                  borderBottom: `2px ${doubt ? 'dashed' : 'solid'} ${doubt ? tokens.doubt : tokens.act}`,
                  color: doubt ? tokens.doubt : 'inherit',
                  bgcolor: open?.index === index ? tokens.actWash : 'transparent',
                  borderRadius: '4px 4px 0 0',
                  textAlign: 'left',
                  whiteSpace: 'normal',
                  '&:hover': { bgcolor: doubt ? tokens.doubtWash : tokens.actWash },
                }}
              >
                {text}
              </ButtonBase>
              {stop}
            </Box>
          ) : (
            <span key={index}>
              {text}
              {stop}
            </span>
          ),
        )}
        {after}
      </span>
      {full.length > short.length && (
        <>
          {' '}
          <ButtonBase aria-pressed={whole} onClick={() => dispatch(wholeSwitched())} sx={afterSentence}>
            {whole ? 'Only what changes' : 'What stays as it is'}
          </ButtonBase>
        </>
      )}
      <Popover
        open={open !== null}
        anchorEl={open?.anchor}
        onClose={close}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{
          paper: {
            role: 'dialog',
            'aria-label': open ? names[open.control] : undefined,
            sx: { p: 2, minWidth: 300, maxWidth: open && wide.has(open.control) ? 680 : 420, mt: 0.75 },
          },
        }}
      >
        {open && editor(open.control, close, open.output)}
      </Popover>
    </Box>
  );
}
