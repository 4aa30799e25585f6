import ButtonBase from '@mui/material/ButtonBase';
import type { ReactNode } from 'react';

/** A choice of what is listed: pressed where it is in force. */
export function Chip({
  on,
  disabled,
  title,
  onClick,
  children,
}: {
  on: boolean;
  disabled?: boolean;
  title?: string;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <ButtonBase
      aria-pressed={on}
      disabled={disabled}
      title={title}
      onClick={onClick}
      sx={{
        fontFamily: 'inherit',
        fontSize: 14,
        whiteSpace: 'nowrap',
        flex: 'none',
        border: 1,
        borderColor: on ? 'text.primary' : 'divider',
        borderRadius: '20px',
        p: '3px 12px',
        bgcolor: 'background.paper',
        fontWeight: on ? 650 : 400,
        color: on ? 'text.primary' : 'text.secondary',
        '&.Mui-disabled': { opacity: 0.55 },
        '&:hover': { borderColor: 'text.secondary' },
      }}
    >
      {children}
    </ButtonBase>
  );
}
