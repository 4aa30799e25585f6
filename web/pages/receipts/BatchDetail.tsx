import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MuiLink from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { Link } from 'react-router';
import { Virtuoso } from 'react-virtuoso';
import type { Problem } from '@shale/core';
import type { BatchReceipt, PartReceipt } from '@shale/contract';
import { useBatchReceiptQuery, useBatchWantedQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { DoForOthers } from './DoForOthers.tsx';
import { Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { Mark, State } from '../../pieces/State.tsx';
import { plural, printBytes, printCount } from '../../pieces/words.ts';

const rowHeight = 34;
const columns = '18px minmax(0, 1fr) minmax(0, 1.2fr) 130px 84px 64px';

/** How the check of all went, as the one line that counts. */
function checkWords({ parts }: BatchReceipt): { severity: 'note' | 'doubt'; words: string } {
  const sum = (count: (part: PartReceipt) => number) => parts.reduce((all, part) => all + count(part), 0);
  const [written, identical, readBack] = [
    sum((part) => part.written),
    sum(({ check }) => check.identical),
    sum(({ check }) => check.readBack),
  ];
  if (identical === written)
    return { severity: 'note', words: `Each of the ${plural(written, 'file')} was read back: every sample matches.` };
  if (readBack < written)
    return { severity: 'doubt', words: `${printCount(readBack)} of ${plural(written, 'file')} were read back.` };
  return {
    severity: 'note',
    words: `Each was read back; ${printCount(identical)} match to the sample, the others as expected of their format.`,
  };
}

function PartRow({ part }: { part: PartReceipt }) {
  const whole = part.failed === 0 && part.written === part.planned;
  const { root, folder, pattern } = part.into;
  return (
    <Box
      role="row"
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        gap: 1.25,
        alignItems: 'center',
        height: rowHeight,
        fontSize: 13,
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Mark
        severity={whole ? (part.losses.some(({ severity }) => severity === 'fault') ? 'doubt' : 'note') : 'fault'}
      />
      <Typography noWrap role="cell" sx={{ fontSize: 13 }} title={part.source.folder}>
        <b>{part.source.folder.split('/').pop()}</b> <span className="mono">{part.source.name}</span>
      </Typography>
      <Typography noWrap role="cell" className="mono" sx={{ fontSize: 13 }} title={part.sentence}>
        {`${root}/${folder ? `${folder}/` : ''}${pattern}`}
      </Typography>
      <span role="cell">
        {printCount(part.written)} of {printCount(part.planned)}
        {part.kept > 0 ? `, ${printCount(part.kept)} stayed` : ''}
      </span>
      <Box component="span" role="cell" className="mono" sx={{ textAlign: 'right' }}>
        {printBytes(part.bytes)}
      </Box>
      <Box component="span" role="cell" sx={{ textAlign: 'right' }}>
        <MuiLink component={Link} to={`/receipts/${part.job}`}>
          Receipt
        </MuiLink>
      </Box>
    </Box>
  );
}

/** One receipt of all that a batch wrote. */
export function BatchDetail({ id }: { id: string }) {
  const { currentData: receipt, error } = useBatchReceiptQuery(id);
  const { currentData: wanted } = useBatchWantedQuery(id);
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!receipt) return <Loading what="Reading the receipts" />;
  const { batch, parts } = receipt;
  const checked = checkWords(receipt);
  const waiting = batch.jobs - parts.length;
  return (
    <Box
      sx={{ display: 'grid', gridTemplateRows: 'auto auto minmax(0, 1fr)', rowGap: 1.5, p: '20px 24px', minWidth: 0 }}
      data-testid="batch-receipt"
    >
      <Box sx={{ display: 'flex', alignItems: 'end', gap: 2 }}>
        <Box sx={{ minWidth: 0 }}>
          <Typography variant="h1">
            {plural(batch.files.written, 'file')} written of {plural(batch.sources, 'source')}
            {batch.files.failed > 0 ? `, ${printCount(batch.files.failed)} failed` : ''}
          </Typography>
          <Typography sx={{ color: 'text.secondary' }}>
            {printBytes(batch.bytes)}, {batch.workSeconds.toFixed(1)} s of work
            {waiting > 0 ? `, ${plural(waiting, 'job')} without a receipt yet` : ''}
          </Typography>
          <State severity={checked.severity}>{checked.words}</State>
        </Box>
        <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
          <Button variant="text" component={Link} to={`/convert/many/of-${id}`}>
            Do it again
          </Button>
          <DoForOthers outputs={wanted?.batch.outputs} />
          <Button variant="outlined" href={`/api/batches/${id}/manifest`}>
            Manifest
          </Button>
          <Button variant="contained" href={`/api/batches/${id}/archive`}>
            Download all
          </Button>
        </Box>
      </Box>
      <Card title="Settings">
        <Typography>{batch.sentence}</Typography>
      </Card>
      <Card
        title={plural(parts.length, 'receipt')}
        sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}
        aside={batch.refused.length > 0 ? `${plural(batch.refused.length, 'part')} refused` : undefined}
      >
        <Box role="table" aria-label="Receipts of this batch" sx={{ flex: 1, minHeight: 0 }}>
          <Virtuoso
            totalCount={parts.length}
            fixedItemHeight={rowHeight}
            itemContent={(index) => <PartRow part={parts[index]!} />}
          />
        </Box>
      </Card>
    </Box>
  );
}
