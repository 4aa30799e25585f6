import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import {
  planSound,
  printBytes,
  printLevel,
  soundConversionSchema,
  soundFormats,
  type Problem,
  type SoundConversion,
  type SoundFacts,
  type SoundFormatName,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useWriteSoundMutation } from '../api/sounds.ts';
import { Card } from '../pieces/Card.tsx';
import { ProblemNote } from '../pieces/Notes.tsx';
import { Choice, Text } from '../pieces/slimFields.tsx';
import { tried } from '../pieces/tried.ts';
import { stemOf, useWhere } from './useWhere.tsx';

const formats = (Object.keys(soundFormats) as SoundFormatName[]).map((one) => [one, soundFormats[one].name] as const);
const rates = ['', '44100', '48000', '96000'] as const;
type Level = 'keep' | 'gain' | 'loudness';

/** What a person has said of the result, as it is typed. */
interface Said {
  conversion: SoundConversion;
  level: Level;
  amount: string;
}

/** A level as it is typed: undefined where it is no number that may be asked for. */
function withLevel({ conversion, level, amount }: Said): SoundConversion | undefined {
  if (level === 'keep') return { ...conversion, gain: 0, loudness: null };
  const typed = amount.trim() === '' ? NaN : Number(amount.replace(',', '.'));
  const told = level === 'gain' ? { gain: typed, loudness: null } : { gain: 0, loudness: typed };
  const { success, data } = soundConversionSchema.safeParse({ ...conversion, ...told });
  return success ? data : undefined;
}

/** What the conversion would do, or why it cannot be done. */
function planned(source: ListedSource, facts: SoundFacts, said: Said) {
  const asked = withLevel(said);
  if (!asked) return { fault: said.level === 'gain' ? 'Type -60 to 60 dB.' : 'Type -60 to -5 LUFS.' };
  const { value: plan, fault } = tried(() => planSound({ name: source.name, stem: stemOf(source.name), facts }, asked));
  return plan ? { asked, plan } : { fault };
}

/** Writes a sound as another file: what it is coded in, its samples, channels and level, and where it goes. */
export function WriteSoundCard({
  source,
  facts,
  stream,
}: {
  source: ListedSource;
  facts: SoundFacts;
  stream: number | null;
}) {
  const [said, setSaid] = useState<Said>({
    conversion: soundConversionSchema.parse({ stream }),
    level: 'keep',
    amount: '',
  });
  const [write, { data: receipt, error, isLoading, reset }] = useWriteSoundMutation();
  const say = (more: Partial<Said>) => {
    reset();
    setSaid({ ...said, ...more });
  };
  const change = (more: Partial<SoundConversion>) => say({ conversion: { ...said.conversion, ...more } });
  const { conversion, level } = said;
  const { asked, plan, fault } = planned(source, facts, said);
  const { where, fields } = useWhere(stemOf(source.name), reset);
  const isCoded = conversion.format === 'aac' || conversion.format === 'opus';
  return (
    <Card title="Write this sound">
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5 }}>
        <Choice
          label="Format"
          value={conversion.format}
          options={formats}
          onSay={(format) => change({ format, depth: 'source', rate: null })}
        />
        {isCoded ? (
          <Choice
            label="Bit rate"
            value={String(conversion.bitrate)}
            options={['64', '96', '128', '192', '256', '320'].map((one) => [one, `${one} kbit/s`] as const)}
            onSay={(bitrate) => change({ bitrate: Number(bitrate) })}
          />
        ) : (
          <Choice
            label="Depth"
            value={conversion.depth}
            options={[
              ['source', 'As the source'],
              ['16', '16 bits'],
              ['24', '24 bits'],
              ...(conversion.format === 'wav' ? [['float', 'Float'] as const] : []),
            ]}
            onSay={(depth) => change({ depth })}
          />
        )}
        <Choice
          label="Sample rate"
          value={conversion.rate === null ? '' : (String(conversion.rate) as (typeof rates)[number])}
          options={rates.map((one) => [one, one === '' ? 'As the source' : `${Number(one) / 1000} kHz`] as const)}
          onSay={(rate) => change({ rate: rate === '' ? null : Number(rate) })}
        />
        <Choice
          label="Channels"
          value={conversion.channels}
          options={[
            ['keep', 'As the source'],
            ['stereo', 'Stereo'],
            ['mono', 'Mono'],
            ['split', 'A file for each'],
          ]}
          onSay={(channels) => change({ channels })}
        />
        <Choice
          label="Level"
          value={level}
          options={[
            ['keep', 'As the source'],
            ['gain', 'Gain'],
            ['loudness', 'To a loudness'],
          ]}
          onSay={(next: Level) => say({ level: next, amount: next === 'loudness' ? '-23' : '0' })}
        />
        {level === 'keep' ? (
          <span />
        ) : (
          <Text
            label={level === 'gain' ? 'Gain, dB' : 'Loudness, LUFS'}
            mono
            value={said.amount}
            error={asked === undefined}
            onSay={(amount) => say({ amount })}
          />
        )}
        {fields}
      </Box>
      <Typography sx={{ mt: 1.5, fontSize: 13.5 }} data-testid="sound-plan">
        {plan ? plan.sentence : fault}
      </Typography>
      {plan?.losses.map((loss) => (
        <Typography key={loss} sx={{ fontSize: 13, color: 'text.secondary' }}>
          {loss}
        </Typography>
      ))}
      {isLoading && <LinearProgress aria-label="Writing the sound" sx={{ height: 3, mt: 1 }} />}
      <Button
        size="small"
        variant="contained"
        sx={{ mt: 1.5 }}
        disabled={!asked || !where || isLoading}
        onClick={() =>
          asked && where && void write({ source: source.id, body: { conversion: asked, into: where, stem: null } })
        }
      >
        {plan && plan.files.length > 1 ? `Write ${plan.files.length} files` : 'Write'}
      </Button>
      {error !== undefined && <ProblemNote problem={error as Problem} />}
      {receipt && (
        <Box role="status" data-testid="sound-written" sx={{ mt: 1.5, fontSize: 13 }}>
          {receipt.files.map(({ name, bytes, loudness, truePeak }) => (
            <div key={name}>
              {`${receipt.folder}/${name}: ${printBytes(bytes)}, ${loudness === null ? 'too quiet to measure' : `${loudness.toFixed(1)} LUFS`}, true peak ${printLevel(truePeak, 'dBTP')}.`}
            </div>
          ))}
          <div>
            {receipt.same === null ? 'Read back and measured.' : 'Read back: every sample is the one that was written.'}
          </div>
          {receipt.losses
            .filter((loss) => !plan?.losses.includes(loss))
            .map((loss) => (
              <div key={loss}>{loss}</div>
            ))}
        </Box>
      )}
    </Card>
  );
}
