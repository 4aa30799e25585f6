import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { comparedPictures, sumWords, worstFirst, type Compared } from '@shale/core';
import type { ReceiptEntry } from '@shale/contract';
import { useWrittenFilesQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { Chart } from '../../pieces/Chart.tsx';
import type { ChartOption } from '../../pieces/DrawnChart.tsx';
import { FactList } from '../../pieces/FactList.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes } from '../../pieces/words.ts';
import type { Tokens } from '../../theme/tokens.ts';

/** What can be taken away of a receipt beside its files, and where it is. */
const forms: [words: string, path: string][] = [
  ['Report for a client, HTML', 'report?kind=html'],
  ['Report for a client, PDF', 'report?kind=pdf'],
  ['Table of files, CSV', 'table'],
  ['Table of files, JSON', 'files'],
  ['Hash list, ASC MHL', 'manifest?form=mhl'],
];

/** The other forms of a receipt. */
export function TakeAway({ job }: { job: string }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const close = () => setAnchor(null);
  return (
    <>
      <Button
        variant="outlined"
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        onClick={({ currentTarget }) => setAnchor(currentTarget)}
      >
        Reports
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        {forms.map(([words, path]) => (
          <MenuItem
            key={path}
            component="a"
            href={`/api/receipts/${job}/${path}`}
            download={path === 'files' ? `${job}.json` : true}
            onClick={close}
          >
            {words}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

const chartOf = (compared: readonly Compared[], tokens: Tokens): ChartOption => ({
  grid: { left: 44, right: 8, top: 26, bottom: 22 },
  tooltip: { trigger: 'axis' },
  xAxis: { type: 'category', data: compared.map(({ frame }) => frame) },
  yAxis: { type: 'value', name: 'dB', scale: true },
  series: [
    {
      name: 'PSNR, dB',
      type: 'bar',
      data: compared.map(({ psnr }) => psnr),
      itemStyle: { color: tokens.act },
    },
  ],
});

/** Worst frames that are listed. */
const listed = 5;

/** How near results of a lossy format come to what was meant, frame by frame, the worst named first. */
export function SimilarityCard({ receipt }: { receipt: ReceiptEntry }) {
  const { tokens } = useTheme();
  const { check, video, job } = receipt;
  const isLossy = check.identical < check.readBack;
  const { data: files = [] } = useWrittenFilesQuery(job, { skip: !isLossy || video !== undefined });
  const compared = comparedPictures(receipt, files);
  const worst = worstFirst(compared);
  if (worst.length === 0) return null;
  return (
    <Card title="Compared with the input" sx={{ gridColumn: '1 / -1' }}>
      <Chart
        option={chartOf(compared, tokens)}
        height={150}
        label={`PSNR by frame; the worst is frame ${worst[0]!.frame}`}
      />
      <FactList
        rows={worst
          .slice(0, listed)
          .map(({ frame, psnr, ssim }) => [
            `Frame ${frame}`,
            `${psnr === null ? 'nothing differs' : `${psnr.toFixed(2)} dB`}, SSIM ${ssim.toFixed(4)}`,
          ])}
      />
    </Card>
  );
}

/** The files of which all results were made, by their checksums, and those that changed before they were read. */
export function MadeFromCard({ receipt: { sources, changed } }: { receipt: ReceiptEntry }) {
  if (sources.length === 0 && changed.length === 0) return null;
  return (
    <Card title="Made from" sx={{ gridColumn: '1 / -1' }}>
      {changed.length > 0 && (
        <State severity="doubt">{`${plural(changed.length, 'file')} changed after the plan, and ${changed.length === 1 ? 'was' : 'were'} taken: ${changed.slice(0, 5).join(', ')}${changed.length > 5 ? ' and more' : ''}`}</State>
      )}
      {sources.map(({ file, bytes, sum }) => (
        <Box key={file} sx={{ mb: 0.5 }}>
          <Typography className="mono" sx={{ fontSize: 13 }}>
            {file}, {printBytes(bytes)}
          </Typography>
          <Typography className="mono" sx={{ fontSize: 12, color: 'text.secondary', overflowWrap: 'anywhere' }}>
            {sumWords(sum)}
          </Typography>
        </Box>
      ))}
    </Card>
  );
}
