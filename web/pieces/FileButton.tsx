import Button from '@mui/material/Button';
import { useRef } from 'react';

interface Props {
  words: string;
  /** Endings, as `.edl,.otio`. */
  accept: string;
  disabled?: boolean;
  onText: (name: string, text: string) => void;
}

/** A button that lets a text file be chosen and reads it. */
export function FileButton({ words, accept, disabled, onText }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button size="small" variant="outlined" disabled={disabled} onClick={() => input.current?.click()}>
        {words}
      </Button>
      <input
        ref={input}
        type="file"
        accept={accept}
        hidden
        aria-label={words}
        onChange={({ target }) => {
          const [file] = target.files ?? [];
          target.value = '';
          if (file) void file.text().then((text) => onText(file.name, text));
        }}
      />
    </>
  );
}
