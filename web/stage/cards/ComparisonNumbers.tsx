import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { channelLetter, transferWords, type Comparison, type DeclaredTransfer } from '@shale/core';
import { FactList } from '../../pieces/FactList.tsx';
import { State } from '../../pieces/State.tsx';
import { plural } from '../../pieces/words.ts';

/** A small number as it is read: at most three digits that say something. */
const small = (value: number): string =>
  value === 0 ? '0' : value < 1e-4 ? value.toExponential(1) : String(Number(value.toPrecision(3)));

/** An error in steps of the coarser of both, and as a value. */
const errorWords = (value: number, step: number | null): string =>
  step === null || value === 0
    ? small(value)
    : `${Number((value / step).toPrecision(3))} ${value < step ? 'of a step' : 'steps'} (${small(value)})`;

const shareWords = (part: number, all: number): string => {
  const percent = (100 * part) / all;
  return part > 0 && percent < 0.01 ? `${plural(part, 'pixel')}` : `${Number(percent.toFixed(2))} %`;
};

interface Props {
  comparison: Comparison;
  /** Shows the pixel that differs most. */
  onGo?: (pixel: { x: number; y: number }) => void;
}

/** How two pictures differ, in one line and in numbers. */
export function ComparisonNumbers({ comparison, onGo }: Props) {
  const { most, mean, psnr, ssim, changed, beyondRounding, pixels, step, at, channels, notNumbers } = comparison;
  const verdict =
    changed === 0 ? (
      <State severity="note">Every sample matches</State>
    ) : beyondRounding === 0 && step !== null ? (
      <State severity="note">Nothing differs by more than rounding</State>
    ) : (
      <State severity="doubt">
        {shareWords(beyondRounding, pixels)} differ{step === null ? '' : ' by more than rounding'}
      </State>
    );
  const rows: [string, string][] = [
    ['Greatest', errorWords(most, step)],
    ['Mean', errorWords(mean, step)],
    ['PSNR', psnr === null ? 'nothing differs' : `${psnr.toFixed(2)} dB`],
    ['SSIM', ssim === null ? 'too small a picture' : ssim > 0.99999 && changed > 0 ? '> 0.99999' : ssim.toFixed(5)],
    ['Changed', `${shareWords(changed, pixels)} of the pixels`],
  ];
  if (notNumbers > 0) rows.push(['No numbers', plural(notNumbers, 'sample')]);
  return (
    <Box data-testid="comparison">
      {verdict}
      <Box sx={{ mt: 0.75 }}>
        <FactList rows={rows} mono />
      </Box>
      {changed > 0 && channels.length > 1 && (
        <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary', mt: 0.5 }}>
          {channels
            .map(({ name, most }) => `${channelLetter(name)} ${small(step === null ? most : most / step)}`)
            .join('  ')}
          {step === null ? '' : ' steps at most'}
        </Typography>
      )}
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary', mt: 0.5 }}>
        Compared in {transferWords[comparison.transfer as DeclaredTransfer]}
        {comparison.alpha === 'premultiplied' && ', premultiplied'}; 1 is the full range.
      </Typography>
      {at && onGo && (
        <Button size="small" sx={{ ml: -1, px: 1 }} onClick={() => onGo(at)}>
          Go to the worst pixel, {at.x}, {at.y}
        </Button>
      )}
    </Box>
  );
}
