import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';

/** One of a few, side by side. */
export function Segments<T extends string>({
  label,
  value,
  options,
  onChoose,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChoose: (value: T) => void;
}) {
  return (
    <Box
      role="group"
      aria-label={label}
      sx={{
        display: 'inline-flex',
        justifySelf: 'start',
        flex: 'none',
        border: 1,
        borderColor: 'divider',
        borderRadius: '5px',
        overflow: 'hidden',
        bgcolor: 'background.paper',
      }}
    >
      {options.map(([option, words]) => (
        <ButtonBase
          key={option}
          aria-pressed={option === value}
          onClick={() => onChoose(option)}
          sx={{
            fontFamily: 'inherit',
            fontSize: options.length > 5 ? 12.5 : 13,
            p: options.length > 6 ? '4px 3px' : options.length > 5 ? '4px 6.5px' : '4px 10px',
            minWidth: 24,
            minHeight: 24,
            flexGrow: 1,
            whiteSpace: 'nowrap',
            color: option === value ? 'primary.contrastText' : 'text.secondary',
            bgcolor: option === value ? 'primary.main' : 'transparent',
            '&:focus-visible': { outlineOffset: -2 },
          }}
        >
          {words}
        </ButtonBase>
      ))}
    </Box>
  );
}
