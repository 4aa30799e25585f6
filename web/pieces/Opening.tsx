import Link from '@mui/material/Link';

interface Props {
  open: boolean;
  /** What is pressed to open, and to close again. */
  words: string;
  closing: string;
  onSwitch: (open: boolean) => void;
}

/** A line that opens and closes what stands under it. */
export function Opening({ open, words, closing, onSwitch }: Props) {
  return (
    <Link
      component="button"
      aria-expanded={open}
      onClick={() => onSwitch(!open)}
      sx={{ fontSize: 12.5, fontFamily: 'inherit' }}
    >
      {open ? closing : words}
    </Link>
  );
}
