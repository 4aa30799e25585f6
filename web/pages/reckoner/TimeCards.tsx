import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import {
  driftPerMinute,
  framesIn,
  gauges,
  mayDropFrames,
  parseFeet,
  parseRate,
  parseSeconds,
  parseTimecode,
  printFeet,
  printTimecode,
  rateFraction,
  sameTime,
  secondsOf,
  ShaleError,
  slipAfter,
  timecodeWords,
  type Gauge,
  type Rate,
} from '@shale/core';
import { Card } from '../../pieces/Card.tsx';
import { tried } from '../../pieces/tried.ts';
import { Answer, Asked, RateAsked, useKept } from './pieces.tsx';

const two = { display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1.5, pt: 0.75 } as const;

const kinds = [
  ['frame', 'Frame'],
  ['timecode', 'Timecode'],
  ['seconds', 'Seconds'],
  ['feet', 'Feet+frames'],
] as const;
type Kind = (typeof kinds)[number][0];

/** The frame that a text names, by what it is. @throws ShaleError of what is none */
function frameOf(kind: Kind, text: string, rate: Rate, gauge: Gauge): number {
  switch (kind) {
    case 'timecode':
      return parseTimecode(text, rate);
    case 'seconds':
      return framesIn(parseSeconds(text), rate).frames;
    case 'feet':
      return parseFeet(text, gauge);
    case 'frame': {
      if (!/^\d{1,9}$/.test(text.trim()))
        throw new ShaleError({
          code: 'bad-frame',
          fact: `"${text.trim()}" is not a frame number.`,
          wayOut: 'Write a whole number, 0 or more.',
          subject: 'frame',
        });
      return Number(text);
    }
  }
}

/** One moment in every way of telling it. */
export function MomentCard() {
  const [rateText, setRate] = useKept('moment rate', '24');
  const [kind, setKind] = useKept('moment kind', 'frame');
  const [text, setText] = useKept('moment', '1440');
  const [gauge, setGauge] = useKept('gauge', '35 mm, 4 perforations');
  const rate = tried(() => parseRate(rateText)).value;
  const film = gauge as Gauge;
  const read = rate ? tried(() => frameOf(kind as Kind, text, rate, film)) : { value: undefined, fault: undefined };
  const frame = read.value;
  const choose = (next: Kind) => {
    // What was told stays the same moment.
    if (rate && frame !== undefined)
      setText(
        next === 'frame'
          ? String(frame)
          : next === 'timecode'
            ? printTimecode(frame, rate)
            : next === 'feet'
              ? printFeet(frame, film)
              : `${frame * rate.den}/${rate.num}`,
      );
    setKind(next);
  };
  return (
    <Card title="One moment in every notation">
      <Box sx={{ ...two, gridTemplateColumns: '110px 1fr 110px' }}>
        <TextField
          select
          size="small"
          label="Given as"
          value={kind}
          onChange={({ target }) => choose(target.value as Kind)}
        >
          {kinds.map(([one, words]) => (
            <MenuItem key={one} value={one}>
              {words}
            </MenuItem>
          ))}
        </TextField>
        <Asked label="Moment" value={text} fault={read.fault} onSay={setText} />
        <RateAsked label="Rate" value={rateText} onSay={setRate} />
      </Box>
      <Box sx={{ minHeight: 250 }}>
        {rate && frame !== undefined && (
          <>
            <Answer label="Frame" value={String(frame)} aside="counted from 0" />
            <Answer label="Timecode" value={printTimecode(frame, rate)} formula={timecodeWords(rate)} />
            {mayDropFrames(rate) && <Answer label="Drop-frame" value={printTimecode(frame, rate, true)} />}
            <Answer label="Seconds" value={secondsOf(frame, rate).answer} formula={secondsOf(frame, rate).formula} />
            <Answer
              label="Feet+frames"
              value={printFeet(frame, film)}
              formula={`${frame} / ${gauges[film]} frames a foot`}
            />
            <TextField
              select
              size="small"
              label="WrittenVideo"
              value={gauge}
              sx={{ mt: 1.5, minWidth: 210 }}
              onChange={({ target }) => setGauge(target.value)}
            >
              {Object.keys(gauges).map((one) => (
                <MenuItem key={one} value={one}>
                  {one}
                </MenuItem>
              ))}
            </TextField>
          </>
        )}
      </Box>
    </Card>
  );
}

/** Two rates: which frame is which, and how far they drift. */
export function RatesCard() {
  const [made, setMade] = useKept('made', '30000/1001');
  const [played, setPlayed] = useKept('played', '30');
  const [frameText, setFrame] = useKept('rates frame', '1800');
  const [time, setTime] = useKept('rates time', '1:00');
  const [a, b] = [tried(() => parseRate(made)).value, tried(() => parseRate(played)).value];
  const frame = a ? tried(() => frameOf('frame', frameText, a, '16 mm')) : { value: undefined, fault: undefined };
  const length = tried(() => parseSeconds(time));
  const drift = a && b ? driftPerMinute(b, a) : undefined;
  return (
    <Card title="Two rates">
      <Box sx={two}>
        <RateAsked label="Made at" value={made} onSay={setMade} />
        <RateAsked label="Played at" value={played} onSay={setPlayed} />
        <Asked label="Frame of the first" value={frameText} fault={frame.fault} onSay={setFrame} />
        <Asked label="After" value={time} fault={length.fault} help="seconds, or minutes as 1:30" onSay={setTime} />
      </Box>
      <Box sx={{ minHeight: 190 }}>
        {a && b && drift && (
          <>
            <Answer
              label="Drift a minute"
              value={`${Number((drift.num / drift.den).toFixed(6))}`}
              aside="frames"
              formula={`60 x (${rateFraction(b)} - ${rateFraction(a)})`}
            />
            {length.value && (
              <Answer
                label="Drift after it"
                value={slipAfter(length.value, a, b).answer}
                formula={slipAfter(length.value, a, b).formula}
              />
            )}
            {frame.value !== undefined && (
              <>
                <Answer
                  label="Same time"
                  value={sameTime(frame.value, a, b).answer}
                  formula={sameTime(frame.value, a, b).formula}
                />
                <Answer
                  label="Speed"
                  value={`${Number(((b.num * a.den * 100) / (b.den * a.num)).toFixed(4))}%`}
                  formula={`(${rateFraction(b)}) / (${rateFraction(a)}), each frame played once`}
                />
              </>
            )}
          </>
        )}
      </Box>
    </Card>
  );
}

/** How many frames a length of time has. */
export function CountCard() {
  const [time, setTime] = useKept('count time', '12.5');
  const [rateText, setRate] = useKept('count rate', '24');
  const rate = tried(() => parseRate(rateText)).value;
  const length = tried(() => parseSeconds(time));
  const count = rate && length.value ? framesIn(length.value, rate) : undefined;
  return (
    <Card title="Frames in a length of time">
      <Box sx={two}>
        <Asked label="Length" value={time} fault={length.fault} help="seconds, or minutes as 1:30" onSay={setTime} />
        <RateAsked label="Frames a second" value={rateText} onSay={setRate} />
      </Box>
      <Box sx={{ minHeight: 110 }}>
        {count && rate && (
          <>
            <Answer label="Frames" value={count.answer} formula={count.formula} />
            <Answer label="Last frame" value={String(Math.max(0, count.frames - 1))} aside="counted from 0" />
            <Answer label="Ends at" value={printTimecode(count.frames, rate)} />
          </>
        )}
      </Box>
    </Card>
  );
}
