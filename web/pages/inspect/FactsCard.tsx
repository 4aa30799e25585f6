import {
  hasFrames,
  matrixWords,
  printCoverage,
  printSeconds,
  sampleWords,
  type ClipFacts,
  type Facts,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { Card } from '../../pieces/Card.tsx';
import { FactList } from '../../pieces/FactList.tsx';
import { framesAndTime, printBytes } from '../../pieces/words.ts';

/** What the headers and the folder say. */
export function FactsCard({ source }: { source: ListedSource }) {
  const { facts, sound } = source;
  const seconds = facts?.seconds ?? sound?.seconds;
  const rows: [string, string][] = [];
  if (hasFrames(source))
    rows.push([
      'Frames',
      `${printCoverage(source.coverage) || 'none'} (${framesAndTime(source.coverage, source.declaration.rate.value)})`,
    ]);
  if (seconds) rows.push(['Length', printSeconds(seconds.num / seconds.den)]);
  if (facts) rows.push(...factRows(facts));
  rows.push(...(sound?.more ?? []), [
    'On disk',
    `${printBytes(source.bytes)} in ${source.files === 1 ? '1 file' : `${source.files} files`}`,
  ]);
  if (source.beside)
    rows.push([
      'Same folder',
      source.beside.map(({ name, seconds: { num, den } }) => `${name}, ${printSeconds(num / den)}`).join('; '),
    ]);
  if (source.folder) rows.push(['Folder', source.folder]);
  return (
    <Card title="What the files say">
      <FactList rows={rows} />
    </Card>
  );
}

/** What is known of a clip, as label and text. */
function clipRows(clip: ClipFacts): [string, string][] {
  const { matrix, range, keys, longestGroup, fields, seen, variable, counted } = clip;
  const said = (is: boolean) => (is ? '' : ', not stated: the default');
  const seenWords = { progressive: 'progressive', interlaced: 'interlaced', pulldown: '3:2 pulldown' };
  return [
    ['Container', clip.container],
    ['Colour as', `${matrixWords[matrix.value]}${said(matrix.said)}`],
    ['Range', `${range.value}${said(range.said)}`],
    ['Fields', [fields, ...(seen ? [`seen: ${seenWords[seen]}`] : [])].join('; ')],
    ['Times', variable ? 'the rate varies' : 'an even rate'],
    ['Keys', keys === 0 ? 'none found' : `${keys}, ${longestGroup} pictures apart at the most`],
    ['Counted', { packets: 'packet by packet', pictures: 'by decoding all', header: 'from the header' }[counted]],
  ];
}

/** What a header says of a picture, as label and text. */
export function factRows(facts: Facts): [string, string][] {
  const rows: [string, string][] = [
    ['Size', `${facts.width} x ${facts.height}`],
    ['Samples', `${sampleWords(facts.sample)}, ${facts.channels.join(' ')}`],
    ['Format', [facts.format, facts.compression].filter(Boolean).join(', ')],
  ];
  if (facts.layers) rows.push(['Layers', facts.layers.join(', ')]);
  if (facts.texts) rows.push(...facts.texts);
  if (facts.transfer) rows.push(['Transfer', facts.transfer]);
  if (facts.primaries) rows.push(['Primaries', facts.primaries]);
  if (facts.pixelAspect) rows.push(['Pixels', `${facts.pixelAspect.num}/${facts.pixelAspect.den}`]);
  if (facts.timecode) rows.push(['Timecode', facts.timecode]);
  if (facts.clip) rows.push(...clipRows(facts.clip));
  return [...rows, ...facts.more];
}
