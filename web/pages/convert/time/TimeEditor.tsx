import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import {
  betweenWords,
  cadenceWords,
  frameSpan,
  onesWords,
  parseRate,
  plainTime,
  printRate,
  rateFraction,
  ratesOf,
  type Between,
  type Plan,
  type Problem,
  type Rate,
  type Spec,
  type TimeSpec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useCadenceQuery, useFindCadenceMutation } from '../../../api/api.ts';
import { ProblemNote } from '../../../pieces/Notes.tsx';
import { Choice, Pair, Text, Whole } from '../../../pieces/slimFields.tsx';
import { plural } from '../../../pieces/words.ts';
import { useStageFrame } from '../../../stage/useStageFrame.ts';
import { refusal } from '../videoEditors.tsx';
import { CurveEditor } from './CurveEditor.tsx';

interface Props {
  source: ListedSource;
  plan: Plan;
  spec: Spec;
  change: (spec: Spec) => void;
}

const hows = [
  { value: 'every-frame', words: 'each once', note: 'The same frames play faster or slower.' },
  { value: 'hold', words: 'each repeated', note: 'On twos, threes: the result is longer by that factor.' },
  { value: 'rate', words: 'converted to another rate', note: 'Same speed: frames are dropped, repeated or created.' },
  { value: 'curve', words: 'retimed by a curve', note: 'Faster here, slower there, frozen, backward.' },
] as const;

/** What becomes of frames in time. */
export function TimeEditor({ source, plan, spec, change }: Props) {
  const { time } = spec;
  const at = useStageFrame(source);
  const joined = spec.then.length > 0;
  const span = joined
    ? { first: 0, last: Math.max(1, plan.taken - 1) }
    : (frameSpan(plan.source.coverage) ?? { first: 0, last: 0 });
  const set = (part: Partial<TimeSpec>) => change({ ...spec, time: { ...time, ...part } });
  const { pictures, results } = ratesOf(plan.source, plan.declaration, spec);
  const rates = pictures && results ? { pictures, results } : undefined;
  const { note } = hows.find(({ value }) => value === time.how)!;
  const mixes = time.how === 'rate' || time.how === 'curve';
  const choose = (how: TimeSpec['how']) => {
    const curve =
      how === 'curve' && time.curve.keys.length < 2
        ? {
            ...time.curve,
            keys: [
              { from: span.first, to: 0 },
              { from: span.last, to: span.last - span.first },
            ],
          }
        : time.curve;
    set({ how, curve });
  };
  return (
    <Box sx={{ display: 'grid', gap: 1.75, width: 600 }}>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1, rowGap: 1.5, pt: 0.75 }}>
        <Choice
          label="Frames are"
          value={time.how}
          options={hows.map(({ value, words }) => [value, words])}
          onSay={(how) => choose(how)}
        />
        <RateField
          key={time.how}
          label={time.how === 'rate' ? 'To rate' : 'Played at'}
          rate={time.rate}
          placeholder={results ? `${printRate(results)}, as they are` : 'no rate declared'}
          onSay={(rate) => set({ rate })}
        />
        {time.how === 'hold' && (
          <Whole
            label="Results for each"
            value={time.hold}
            onSay={(hold) => hold !== null && hold >= 1 && hold <= 1000 && set({ hold })}
          />
        )}
        {mixes && (
          <Choice
            label="In-between frames"
            value={time.between}
            options={(Object.keys(betweenWords) as Between[]).map((one) => [one, betweenWords[one]])}
            onSay={(between) => set({ between: between })}
          />
        )}
        {time.how === 'curve' ? (
          <Choice
            label="Between keys"
            value={time.curve.bend}
            options={[
              ['straight', 'straight: one speed'],
              ['smooth', 'smooth: the speed changes gradually'],
            ]}
            onSay={(bend) => set({ curve: { ...time.curve, bend: bend } })}
          />
        ) : (
          <Typography sx={{ fontSize: 12.5, color: 'text.secondary', alignSelf: 'center' }}>{note}</Typography>
        )}
      </Box>
      {time.how === 'curve' && (
        <CurveEditor
          curve={time.curve}
          span={span}
          rates={rates}
          at={joined ? 0 : at}
          onSay={(curve) => set({ curve })}
        />
      )}
      <Before source={source} spec={spec} set={set} />
      <After time={time} plan={plan} set={set} />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
        <Typography sx={{ fontSize: 13, color: 'text.secondary' }} data-testid="time-gives">
          Gives {plural(plan.frames, 'frame')}
          {plan.rate
            ? ` at ${printRate(plan.rate)}, ${((plan.frames * plan.rate.den) / plan.rate.num).toFixed(2)} s`
            : ''}
          .
        </Typography>
        <Button
          sx={{ ml: 'auto' }}
          disabled={JSON.stringify(time) === JSON.stringify(plainTime)}
          onClick={() => change({ ...spec, time: plainTime })}
        >
          Keep the timing
        </Button>
      </Box>
    </Box>
  );
}

/** A rate as a number or a fraction; nothing keeps that of the frames. */
function RateField({
  label,
  rate,
  placeholder,
  onSay,
}: {
  label: string;
  rate: Rate | null;
  placeholder: string;
  onSay: (rate: Rate | null) => void;
}) {
  const [text, setText] = useState(rate ? rateFraction(rate) : '');
  const wrong = text.trim() === '' ? undefined : refusal(() => parseRate(text));
  return (
    <Box>
      <Text
        label={label}
        mono
        value={text}
        placeholder={placeholder}
        error={wrong !== undefined}
        onSay={(said) => {
          setText(said);
          if (said.trim() === '') onSay(null);
          else if (refusal(() => parseRate(said)) === undefined) onSay(parseRate(said));
        }}
      />
      {wrong && (
        <Typography role="alert" sx={{ fontSize: 12.5, color: 'error.main', mt: 0.5 }}>
          {wrong}
        </Typography>
      )}
    </Box>
  );
}

type Set = (part: Partial<TimeSpec>) => void;

/** What is taken back first. */
function Before({ source, spec: { time }, set }: { source: ListedSource; spec: Spec; set: Set }) {
  const { currentData } = useCadenceQuery({ id: source.id, modified: source.modified });
  const [find, { isLoading, error }] = useFindCadenceMutation();
  const cadence = currentData?.cadence;
  const rate = source.declaration.rate.value;
  const look = () => void find(source.id);
  return (
    <Box sx={{ display: 'grid', gap: 1.25 }}>
      <Pair>
        <Choice
          label="First remove"
          value={time.undo}
          options={[
            ['nothing', 'nothing'],
            ['holds', 'repeated frames'],
            ['pulldown', '3:2 pulldown in the lines'],
          ]}
          onSay={(undo) => {
            set(
              undo === 'pulldown' && cadence?.pulldown
                ? { undo, phase: cadence.pulldown.phase, lines: cadence.pulldown.lines }
                : { undo: undo },
            );
            if (undo === 'holds' && !cadence) look();
          }}
        />
        <Button variant="outlined" disabled={isLoading} onClick={look}>
          {isLoading ? 'Looking at every frame' : cadence ? cadenceWords(cadence, rate) : 'Find its cadence'}
        </Button>
      </Pair>
      {(time.undo === 'pulldown' || time.pulldown) && (
        <Pair>
          <Choice
            label="First frame’s place in the cycle"
            value={String(time.phase)}
            options={['0, whole', '1, whole', '2, woven', '3, woven', '4, whole'].map((words, at) => [
              String(at),
              words,
            ])}
            onSay={(phase) => set({ phase: Number(phase) })}
          />
          <Choice
            label="First field"
            value={time.lines}
            options={[
              ['top', 'top lines'],
              ['bottom', 'bottom lines'],
            ]}
            onSay={(lines) => set({ lines })}
          />
        </Pair>
      )}
      {error && <ProblemNote problem={error as Problem} />}
    </Box>
  );
}

/** What is done to the results. */
function After({ time, plan, set }: { time: TimeSpec; plan: Plan; set: Set }) {
  const last = Math.max(0, plan.frames - 1);
  const keep = time.keep ?? { first: 0, last };
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', columnGap: 1, rowGap: 1, alignItems: 'center' }}>
      <Choice
        label="Hold results"
        value={String(time.stand)}
        options={[1, 2, 3, 4, 6, 8].map((each) => [String(each), each === 1 ? 'on ones' : `on ${onesWords(each)}`])}
        onSay={(stand) => set({ stand: Number(stand) })}
      />
      <Whole
        label="Keep results from"
        value={keep.first}
        onSay={(first) => set({ keep: first === null ? null : { first, last: Math.max(first, keep.last) } })}
      />
      <Whole
        label="to"
        value={time.keep ? keep.last : null}
        placeholder={String(last)}
        onSay={(end) => set({ keep: end === null ? null : { first: keep.first, last: end } })}
      />
      <FormControlLabel
        sx={{ gridColumn: '1 / -1' }}
        control={<Checkbox size="small" checked={time.back} onChange={(_, back) => set({ back })} />}
        label="There and back: then backwards to the second frame"
      />
      <FormControlLabel
        sx={{ gridColumn: '1 / -1' }}
        control={<Checkbox size="small" checked={time.pulldown} onChange={(_, pulldown) => set({ pulldown })} />}
        label="Finally add 3:2 pulldown (four frames to five)"
      />
    </Box>
  );
}
