import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import {
  channelCounts,
  framesIn,
  parseRate,
  parseSeconds,
  printBits,
  rawBytes,
  sequenceBytes,
  ShaleError,
  sizeOfSource,
  timeLeft,
  videoBytes,
  type Beside,
  type Channels,
} from '@shale/core';
import { Card } from '../../pieces/Card.tsx';
import { SourcePicker } from '../../pieces/SourcePicker.tsx';
import { printBytes, printLeft } from '../../pieces/words.ts';
import { tried } from '../../pieces/tried.ts';
import { Answer, Asked, RateAsked, useKept } from './pieces.tsx';

/** A whole number of a field. @throws ShaleError where it is none, or beyond its ends */
function wholeOf(text: string, what: string, most: number): number {
  const number = Number(text);
  if (/^\d{1,10}$/.test(text.trim()) && number >= 1 && number <= most) return number;
  throw new ShaleError({
    code: 'bad-count',
    fact: `"${text.trim()}" is not a ${what}.`,
    wayOut: `Write a whole number from 1 to ${most.toLocaleString('en-GB')}.`,
  });
}

function percentOf(text: string): number {
  const number = Number(text.replace(',', '.'));
  if (text.trim() !== '' && number > 0 && number <= 1000) return number;
  throw new ShaleError({
    code: 'bad-count',
    fact: `"${text.trim()}" is not a percentage.`,
    wayOut: 'Write a number above 0, 100 for no compression.',
  });
}

const bits = ['8', '10', '12', '16', '32'] as const;

/** How large pictures, sequences and videos are. */
export function LargeCard() {
  const [width, setWidth] = useKept('width', '1920');
  const [height, setHeight] = useKept('height', '1080');
  const [channels, setChannels] = useKept('channels', 'RGB');
  const [depth, setDepth] = useKept('bits', '16');
  const [time, setTime] = useKept('large time', '1:00');
  const [rateText, setRate] = useKept('large rate', '24');
  const [percent, setPercent] = useKept('percent', '100');
  const [kilobits, setKilobits] = useKept('kilobits', '20000');
  const [like, setLike] = useState<Beside | null>(null);
  const across = tried(() => wholeOf(width, 'width', 65_536));
  const down = tried(() => wholeOf(height, 'height', 65_536));
  const length = tried(() => parseSeconds(time));
  const share = tried(() => percentOf(percent));
  const bitrate = tried(() => wholeOf(kilobits, 'bitrate', 100_000_000));
  const rate = tried(() => parseRate(rateText)).value;
  const size =
    across.value && down.value
      ? { width: across.value, height: down.value, channels: channels as Channels, bits: Number(depth) }
      : undefined;
  const frames = rate && length.value ? framesIn(length.value, rate).frames : undefined;
  const one = size && rawBytes(size);
  const all = size && frames && share.value ? sequenceBytes(size, frames, share.value) : undefined;
  const video = length.value && bitrate.value ? videoBytes(bitrate.value, length.value) : undefined;
  return (
    <Card title="How large">
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr 1fr', columnGap: 1.5, pt: 0.75 }}>
        <Asked label="Width" value={width} fault={across.fault} onSay={setWidth} />
        <Asked label="Height" value={height} fault={down.fault} onSay={setHeight} />
        <TextField
          select
          size="small"
          label="Channels"
          value={channels}
          onChange={({ target }) => setChannels(target.value)}
        >
          {Object.keys(channelCounts).map((one) => (
            <MenuItem key={one} value={one}>
              {one}
            </MenuItem>
          ))}
        </TextField>
        <TextField select size="small" label="Bits" value={depth} onChange={({ target }) => setDepth(target.value)}>
          {bits.map((one) => (
            <MenuItem key={one} value={one}>
              {one === '32' ? '32, float' : one}
            </MenuItem>
          ))}
        </TextField>
        <Asked label="Length" value={time} fault={length.fault} onSay={setTime} />
        <RateAsked label="Its rate" value={rateText} onSay={setRate} />
        <Asked label="Compressed to, %" value={percent} fault={share.fault} onSay={setPercent} />
        <Asked label="Video, kb/s" value={kilobits} fault={bitrate.fault} onSay={setKilobits} />
      </Box>
      <SourcePicker
        label="As stored on disk"
        value={like}
        onSay={(chosen, listed) => {
          setLike(chosen);
          const kept = sizeOfSource(listed);
          if (!kept) return;
          setWidth(String(kept.size.width));
          setHeight(String(kept.size.height));
          setChannels(kept.size.channels);
          setDepth(String(kept.size.bits));
          setPercent(String(kept.percent));
        }}
      />
      <Box sx={{ minHeight: 220, mt: 1 }}>
        {one && (
          <Answer
            label="One picture"
            value={one.answer}
            aside={`bytes, ${printBytes(one.bytes)}`}
            formula={one.formula}
          />
        )}
        {all && (
          <>
            <Answer
              label="Sequence"
              value={all.answer}
              aside={`bytes, ${printBytes(all.bytes)}`}
              formula={all.formula}
            />
            <Answer
              label="To play it"
              value={printBytes((all.bytes / frames!) * (rate!.num / rate!.den))}
              aside={`a second, ${printBits((all.bytes / frames!) * 8 * (rate!.num / rate!.den))}`}
            />
          </>
        )}
        {video && (
          <Answer
            label="Video"
            value={video.answer}
            aside={`bytes, ${printBytes(video.bytes)}`}
            formula={video.formula}
          />
        )}
      </Box>
    </Card>
  );
}

/** How long a run will take yet. */
export function LeftCard() {
  const [done, setDone] = useKept('done', '25');
  const [of, setOf] = useKept('of', '100');
  const [elapsed, setElapsed] = useKept('elapsed', '2:00');
  const made = tried(() => wholeOf(done, 'count', 1_000_000_000));
  const all = tried(() => wholeOf(of, 'count', 1_000_000_000));
  const time = tried(() => parseSeconds(elapsed));
  const left =
    made.value && all.value && time.value ? tried(() => timeLeft(made.value, all.value, time.value)) : undefined;
  return (
    <Card title="Time left in a run">
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', columnGap: 1.5, pt: 0.75 }}>
        <Asked label="Done" value={done} fault={made.fault ?? left?.fault} onSay={setDone} />
        <Asked label="Of" value={of} fault={all.fault} onSay={setOf} />
        <Asked label="In" value={elapsed} fault={time.fault} onSay={setElapsed} />
      </Box>
      <Box sx={{ minHeight: 60 }}>
        {left?.value && (
          <Answer
            label="Left"
            value={printLeft(left.value.seconds)}
            aside={`${left.value.answer} s`}
            formula={left.value.formula}
          />
        )}
      </Box>
    </Card>
  );
}
