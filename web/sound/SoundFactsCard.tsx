import { printLevel, printSeconds, type SoundFacts } from '@shale/core';
import { Card } from '../pieces/Card.tsx';
import { FactList } from '../pieces/FactList.tsx';
import { plural } from '../pieces/words.ts';

const seconds = (samples: number, { rate }: SoundFacts): string => printSeconds(samples / rate);

/** Some stretches, by when they begin. */
function listed({ count, listed }: SoundFacts['silences'], facts: SoundFacts): string {
  const shown = listed.slice(0, 4).map(({ from, to }) => `${seconds(from, facts)} to ${seconds(to, facts)}`);
  return [...shown, ...(count > shown.length ? [`${count - shown.length} more`] : [])].join('; ');
}

/** What a sound holds, measured over every sample. */
export function SoundFactsCard({ facts }: { facts: SoundFacts }) {
  const { loudness, range, peaks, truePeaks, names, sounds, silences, clipped, damaged, samples, begins } = facts;
  const perChannel = (levels: number[]) =>
    levels.length > 2
      ? printLevel(Math.max(...levels))
      : levels.map((level, at) => `${levels.length > 1 ? `${names[at]} ` : ''}${printLevel(level)}`).join(', ');
  const rows: [string, string][] = [
    ['Length', samples === 0 ? 'no samples' : `${seconds(samples, facts)}, ${samples.toLocaleString('en-GB')} samples`],
    [
      'Sound',
      `${facts.rate.toLocaleString('en-GB')} Hz, ${names.length > 2 ? `${names.length} channels` : names.join(' and ').toLowerCase()}, ${facts.codec}`,
    ],
    [
      'Loudness',
      loudness === null
        ? 'too little is heard'
        : `${loudness.toFixed(1)} LUFS, range ${(range ?? 0).toFixed(1)} LU (EBU R 128)`,
    ],
    ['True peak', printLevel(Math.max(0, ...truePeaks), 'dBTP')],
    ['Peak', perChannel(peaks)],
    [
      'Clipped',
      clipped.count === 0
        ? 'nowhere'
        : `${plural(clipped.count, 'place')}, first at ${seconds(clipped.listed[0]!.from, facts)}`,
    ],
    [
      'Heard',
      sounds ? `from ${seconds(sounds.from, facts)} to ${seconds(sounds.to, facts)}` : 'all silent, below -60 dB',
    ],
    ['Silence', silences.count === 0 ? 'none of half a second' : listed(silences, facts)],
  ];
  if (facts.streams > 1) rows.push(['Streams', String(facts.streams)]);
  if (begins !== 0)
    rows.push(['Begins', `${printSeconds(Math.abs(begins))} ${begins > 0 ? 'after' : 'before'} the first picture`]);
  if (damaged) rows.push(['Damaged', `at ${seconds(damaged.at, facts)}: ${damaged.fact}`]);
  return (
    <Card title="What is heard">
      <FactList rows={rows} />
    </Card>
  );
}
