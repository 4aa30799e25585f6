import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { Link, useNavigate, useParams } from 'react-router';
import {
  frameSpan,
  alphaWords,
  comparedWords,
  groundsWords,
  missingFrom,
  printCoverage,
  printBits,
  printRate,
  printSeconds,
  transferWords,
  type Problem,
} from '@shale/core';
import type { ReceiptEntry } from '@shale/contract';
import { useBatchesQuery, useMadeByQuery, useReceiptQuery, useReceiptsQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { FactList } from '../../pieces/FactList.tsx';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes } from '../../pieces/words.ts';
import { keepSpec } from '../../state/keptSpec.ts';
import { LossLines } from '../../pieces/LossesCard.tsx';
import { BatchDetail } from './BatchDetail.tsx';
import { DoForOthers } from './DoForOthers.tsx';
import { MadeFromCard, SimilarityCard, TakeAway } from './ProvenCards.tsx';
import { receiptEntries, ReceiptNav } from './ReceiptNav.tsx';
import { ResultStage } from './ResultStage.tsx';

/** How the check went, as the one line that counts. */
function checkWords({ check, written, spec, video }: ReceiptEntry): { severity: 'note' | 'doubt'; words: string } {
  if (!spec.readBack) return { severity: 'doubt', words: 'The files were not read back.' };
  if (video && check.identical < written)
    return {
      severity: 'note',
      words: `All ${plural(video.frames, 'picture')} were decoded again and counted; ${comparedWords(video)}.`,
    };
  if (check.identical === written)
    return {
      severity: 'note',
      words: `${written === 1 ? 'The file' : `Each of the ${plural(written, 'file')}`} was read back from disk and decoded: every sample matches.`,
    };
  return {
    severity: 'doubt',
    words: `Each was read back; ${plural(written - check.identical, 'file')} differ by at most ${check.most} steps, as expected of a lossy format.`,
  };
}

/** Opens Convert with what this job was asked, for the same source. */
function DoAgain({ receipt }: { receipt: ReceiptEntry }) {
  const navigate = useNavigate();
  const { data } = useMadeByQuery(receipt.job);
  const source = data?.source;
  return (
    <Button
      variant="text"
      disabled={!source}
      title={source ? undefined : 'Its source no longer exists'}
      onClick={() => {
        if (!source) return;
        keepSpec(source.id, receipt.spec);
        void navigate(`/convert/${source.id}`);
      }}
    >
      Do it again
    </Button>
  );
}

function Detail({ receipt }: { receipt: ReceiptEntry }) {
  const span = frameSpan(receipt.coverage) ?? { first: 0, last: 0 };
  const checked = checkWords(receipt);
  const { rate, alpha, transfer } = receipt.declaration;
  const strip = {
    ...span,
    present: receipt.coverage,
    missing: missingFrom(receipt.coverage),
    doubled: [],
    suspect: [],
    weights: [1],
  };
  const declared: [string, string][] = [
    ['Rate', `${rate.value ? printRate(rate.value) : 'not declared'}, ${groundsWords[rate.grounds]}`],
    ['Alpha', `${alpha.value ? alphaWords[alpha.value] : 'not declared'}, ${groundsWords[alpha.grounds]}`],
    [
      'Transfer',
      `${transfer.value ? transferWords[transfer.value] : 'not declared'}, ${groundsWords[transfer.grounds]}`,
    ],
  ];
  return (
    <Box sx={{ overflowY: 'auto', p: '20px 24px', minWidth: 0 }} data-testid="receipt">
      <Box sx={{ display: 'flex', flexWrap: { xs: 'wrap', md: 'nowrap' }, alignItems: 'end', gap: 2, mb: 2 }}>
        <Box sx={{ minWidth: 0 }}>
          <Typography variant="h1">
            {receipt.video ? `Video of ${plural(receipt.video.frames, 'frame')}` : plural(receipt.written, 'frame')}{' '}
            written
            {!receipt.video && receipt.written < receipt.planned ? ` of ${receipt.planned} planned` : ''}
            {receipt.failed.length > 0 ? `, ${receipt.failed.length} failed` : ''}
            {receipt.kept ? `, ${receipt.kept} of them before` : ''}
          </Typography>
          <Typography sx={{ color: 'text.secondary' }}>
            <span className="mono">{`${receipt.into.root}/${receipt.into.folder ? `${receipt.into.folder}/` : ''}${receipt.into.pattern}`}</span>
            , {printBytes(receipt.bytes)}, {receipt.workSeconds.toFixed(1)} s of work
          </Typography>
          <State severity={checked.severity}>{checked.words}</State>
        </Box>
        <Box sx={{ ml: { md: 'auto' }, display: 'flex', flexWrap: { xs: 'wrap', md: 'nowrap' }, gap: 1 }}>
          <DoAgain receipt={receipt} />
          <DoForOthers outputs={[receipt.spec]} />
          <TakeAway job={receipt.job} />
          <Button variant="outlined" href={`/api/receipts/${receipt.job}/manifest`}>
            Manifest
          </Button>
          <Button variant="contained" href={`/api/receipts/${receipt.job}/archive`}>
            Download all
          </Button>
        </Box>
      </Box>
      <Box sx={{ mb: 2 }}>
        <ResultStage key={receipt.job} job={receipt.job} strip={strip} />
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary', mt: 0.5 }}>
          Frames <span className="mono">{printCoverage(receipt.coverage).replaceAll(',', ', ')}</span>. The manifest has
          the SHA-256 of every file.
        </Typography>
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'repeat(2, minmax(0, 1fr))' },
          gap: 1.5,
        }}
      >
        <Card title="What is different">
          <LossLines losses={receipt.losses} />
        </Card>
        <MadeCard receipt={receipt} />
        <SimilarityCard receipt={receipt} />
        <MadeFromCard receipt={receipt} />
        <Card title="Settings">
          <Typography>{receipt.sentence}</Typography>
        </Card>
        <Card title="Taken as">
          <FactList rows={declared} />
        </Card>
        {receipt.setAside?.length > 0 && (
          <Card title="Findings set aside before the run" sx={{ gridColumn: '1 / -1' }}>
            {receipt.setAside.map(({ code, sentence, reason }) => (
              <Box key={code} sx={{ mb: 0.75 }}>
                <Typography>{sentence}</Typography>
                <Typography variant="body2" sx={{ color: 'text.secondary' }}>
                  “{reason}”
                </Typography>
              </Box>
            ))}
          </Card>
        )}
        {receipt.failed.length > 0 && (
          <Card
            title={`${plural(receipt.failed.length, 'frame')} failed`}
            sx={{ gridColumn: '1 / -1' }}
            aside={<Link to="/jobs">Try them again on Jobs</Link>}
          >
            {receipt.failed.slice(0, 50).map((failure) => (
              <Box key={failure.frame} sx={{ mb: 0.75 }}>
                <State severity="fault">
                  <span className="mono">{failure.name}</span>
                </State>
                <Typography variant="body2">
                  {failure.fact} {failure.wayOut}
                </Typography>
              </Box>
            ))}
          </Card>
        )}
      </Box>
    </Box>
  );
}

/** How far off a thought was, in percent of what came. */
function off(thought: number, came: number): string {
  if (came <= 0) return '';
  const percent = Math.round((100 * (thought - came)) / came);
  return percent === 0 ? ', accurate to 1 %' : `, ${Math.abs(percent)}% too ${percent > 0 ? 'much' : 'little'}`;
}

/** What a video holds, the sound beside stills, and how what was thought before the run stands to what came. */
function MadeCard({ receipt: { video, sound, estimate, bytes, workSeconds, check } }: { receipt: ReceiptEntry }) {
  const rows: [string, string][] = [];
  if (video) {
    const seconds = (video.frames * video.rate.den) / video.rate.num;
    rows.push(
      ['Video', `${video.format}, ${video.width} x ${video.height}`],
      ['Frames', `${video.frames} at ${printRate(video.rate)}, ${printSeconds(seconds)}`],
      ['Data', `${printBits((bytes * 8) / seconds)} a second`],
      ['Sound', video.sound ? 'yes' : 'none'],
    );
    if (video.kilobits !== null)
      rows.push(['Bitrate of its pictures', `${video.kilobits.toLocaleString('en-GB')} kb/s`]);
    if (video.psnr !== null)
      rows.push(['Compared with the input', `${video.psnr.toFixed(1)} dB, at most ${check.most} codes off`]);
  }
  if (video?.beside) rows.push(['Same folder', `${video.beside.name}, ${printBytes(video.beside.bytes)}`]);
  if (sound) rows.push(['Sound beside', `${sound.name}, ${printBytes(sound.bytes)}`]);
  if (estimate)
    rows.push(
      ['Estimated size', `${printBytes(estimate.bytes)}${off(estimate.bytes, bytes)}`],
      ['Estimated time', `${estimate.seconds.toFixed(1)} s${off(estimate.seconds, workSeconds)}`],
    );
  if (rows.length === 0) return null;
  return (
    <Card title="Result">
      <FactList rows={rows} />
    </Card>
  );
}

/** The receipt of a job. */
function JobDetail({ job }: { job: string }) {
  const { currentData, error } = useReceiptQuery(job);
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  return currentData ? <Detail receipt={currentData} /> : <Loading what="Reading the receipt" />;
}

/** What finished jobs and batches wrote and how it was checked. */
export function ReceiptsPage() {
  const { job, batch } = useParams();
  const { data: receipts, error } = useReceiptsQuery();
  const { data: batches } = useBatchesQuery();
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!receipts || !batches) return <Loading what="Reading the receipts" />;
  const all = receiptEntries(receipts, batches);
  const shown = batch ? `batch/${batch}` : (job ?? all[0]?.to);
  if (shown === undefined) {
    return (
      <EmptyPage
        title="No receipt yet"
        action={
          <Button component={Link} to="/intake" variant="contained">
            Go to Intake
          </Button>
        }
      >
        A finished job leaves a receipt: what was written, how it was checked, what differs, and the files to download.
      </EmptyPage>
    );
  }
  const [kind, id] = shown.startsWith('batch/') ? (['batch', shown.slice(6)] as const) : (['job', shown] as const);
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '260px minmax(0, 1fr)' },
        height: { xs: 'auto', md: '100%' },
      }}
    >
      <ReceiptNav entries={all} shown={shown} />
      {kind === 'batch' ? <BatchDetail key={id} id={id} /> : <JobDetail key={id} job={id} />}
    </Box>
  );
}
