import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import Checkbox from '@mui/material/Checkbox';
import Typography from '@mui/material/Typography';
import {
  chromaOf,
  endingOf,
  fieldsSchema,
  fieldsWords,
  isVideoFormat,
  needsEven,
  parseRate,
  parseTimecode,
  printSeconds,
  problemOf,
  rateFraction,
  codecRecord,
  videoSchema,
  type Plan,
  type Spec,
  type VideoSpec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { OneOf, Typed } from '../../sentence/fields.tsx';
import { SourcePicker } from '../../pieces/SourcePicker.tsx';
import { Choice, Pair, Text, Whole } from '../../pieces/slimFields.tsx';
import { plural } from '../../pieces/words.ts';

interface Editing {
  source: ListedSource;
  plan: Plan;
  spec: Spec;
  change: (spec: Spec) => void;
}

const gap = { display: 'grid', gap: 2, pt: 0.75 } as const;

/** What is wrong with a text, in words, by trying it. */
export function refusal(work: () => unknown): string | undefined {
  try {
    work();
    return undefined;
  } catch (error) {
    const { fact, wayOut } = problemOf(error);
    return `${fact} ${wayOut}`;
  }
}

/** What becomes of numbers without a file. */
export function MissingEditor({ spec, change }: Editing) {
  const isFilm = isVideoFormat(spec.write.format);
  return (
    <OneOf
      label="Where a frame is missing"
      value={spec.missing}
      options={[
        { value: 'stop', words: 'Stop', note: 'Nothing is written until the frame is there.' },
        { value: 'hold', words: 'Hold the one before', note: 'Nothing moves in time.' },
        { value: 'slate', words: 'Put a slate', note: 'A dark picture with the missing number on it.' },
        isFilm
          ? { value: 'leave-out', words: 'Close up', note: 'The video is that much shorter.' }
          : { value: 'leave-out', words: 'Leave it out', note: 'Its number stays free in the result.' },
      ]}
      onChoose={(missing) => change({ ...spec, missing })}
    />
  );
}

/** How a clip is taken apart: its fields, and its pictures in time. */
export function ClipEditor({ source, spec, plan, change }: Editing) {
  const { clip } = spec;
  const facts = source.facts?.clip;
  const set = (part: Partial<Spec['clip']>) => change({ ...spec, clip: { ...clip, ...part } });
  const seen = {
    interlaced: 'Interlaced lines were seen.',
    pulldown: 'Pulldown was seen.',
    progressive: 'Each picture is of one moment.',
  };
  return (
    <Box sx={gap}>
      <Box>
        <Choice
          label="Fields"
          value={clip.fields}
          options={fieldsSchema.options.map((one) => [one, fieldsWords[one]])}
          onSay={(fields) => set({ fields })}
        />
        {facts?.seen && (
          <Typography sx={{ mt: 0.75, fontSize: 12.5, color: 'text.secondary' }}>{seen[facts.seen]}</Typography>
        )}
      </Box>
      <OneOf
        label="Pictures"
        value={clip.timing}
        options={[
          {
            value: 'every-picture',
            words: 'Every coded picture once',
            note: 'Whatever their times: nothing is dropped or doubled.',
          },
          {
            value: 'constant-rate',
            words: 'At a constant rate',
            note: 'By their times: of each frame the picture that stands on the screen in its middle.',
          },
        ]}
        onChoose={(timing) => set({ timing })}
      />
      {clip.timing === 'constant-rate' && (
        <Typed
          label="Rate"
          mono
          value={plan.rate ? rateFraction(plan.rate) : ''}
          help="Frames a second, as 24, 23.976 or 30000/1001."
          refuse={(text) => refusal(() => parseRate(text))}
          onSay={(text) => set({ rate: parseRate(text) })}
        />
      )}
    </Box>
  );
}

const speeds = (presets: readonly string[]) =>
  presets.map((_, at) => {
    const words = at === 0 ? '0, smallest' : at === 8 ? '8, fastest' : String(at);
    return [String(at), /^\d/.test(presets[at]!) ? words : `${words} (${presets[at]})`] as const;
  });

/** How a video is written: every number that its codec knows. */
export function VideoEditor({ spec, change, plan }: Editing) {
  const { video, write } = spec;
  const rules = codecRecord(write.format)!;
  const set = (part: Partial<VideoSpec>) => change({ ...spec, video: { ...video, ...part } });
  const even = needsEven(write.format, video);
  const byQuality = video.control === 'quality';
  return (
    <Box sx={gap}>
      {rules.containers.length > 1 && (
        <Choice
          label="Container"
          value={video.container}
          options={videoSchema.shape.container
            .unwrap()
            .options.filter((one) => rules.containers.includes(one))
            .map((one) => [one, one.toUpperCase()])}
          onSay={(container) => set({ container })}
        />
      )}
      {rules.controls === 'rate' && (
        <>
          <Pair>
            <Choice
              label="Its size is set by"
              value={video.control}
              options={[
                ['quality', 'one quality'],
                ['bitrate', 'a bitrate'],
              ]}
              onSay={(control) => set({ control })}
            />
            {byQuality ? (
              <Whole
                label={`Quality (CRF), 0 best to ${rules.crf!.most}`}
                value={video.crf}
                placeholder={`${rules.crf!.start}, the start`}
                onSay={(crf) => (crf === null || crf <= rules.crf!.most) && set({ crf })}
              />
            ) : (
              <Whole
                label="Kilobits a second"
                value={video.bitrate}
                onSay={(bitrate) => bitrate !== null && bitrate >= 10 && bitrate <= 2_000_000 && set({ bitrate })}
              />
            )}
            {!byQuality && (
              <Whole
                label="At most"
                value={video.maxBitrate}
                placeholder="no limit"
                onSay={(maxBitrate) =>
                  (maxBitrate === null || (maxBitrate >= 10 && maxBitrate <= 2_000_000)) && set({ maxBitrate })
                }
              />
            )}
            {!byQuality && rules.twoPasses && (
              <Choice
                label="Passes"
                value={String(video.passes)}
                options={[
                  ['1', 'one'],
                  ['2', 'two'],
                ]}
                onSay={(passes) => set({ passes: Number(passes) as 1 })}
              />
            )}
            <Choice
              label="Speed"
              value={String(video.speed)}
              options={speeds(rules.presets!)}
              onSay={(speed) => set({ speed: Number(speed) })}
            />
            <Whole
              label="Key at least every, frames"
              value={video.keyDistance}
              placeholder="two seconds"
              onSay={(keyDistance) =>
                (keyDistance === null || (keyDistance >= 1 && keyDistance <= 1000)) && set({ keyDistance })
              }
            />
            {rules.chroma && rules.chroma.length > 1 && (
              <Choice
                label="Colour"
                value={chromaOf(write.format, video)!}
                options={rules.chroma.map((one) => [
                  one,
                  one === '4:4:4' ? '4:4:4, whole' : one === '4:2:2' ? '4:2:2, half' : '4:2:0, a quarter',
                ])}
                onSay={(chroma) => set({ chroma })}
              />
            )}
          </Pair>
        </>
      )}
      <Pair>
        {(even.width || even.height) && (
          <Choice
            label="Where a side is odd"
            value={video.oddSize}
            options={[
              ['stop', 'stop'],
              ['pad', 'repeat its last line'],
              ['crop', 'cut its last line off'],
            ]}
            onSay={(oddSize) => set({ oddSize })}
          />
        )}
        <Choice
          label="Blank end"
          value={video.blankEnd}
          options={[
            ['stop', 'stop and ask'],
            ['cut', 'end before it'],
            ['write', 'write it'],
          ]}
          onSay={(blankEnd) => set({ blankEnd })}
        />
        <Text
          label="Timecode of the first frame"
          mono
          value={video.timecode ?? ''}
          placeholder="none"
          error={
            video.timecode !== null &&
            plan.rate !== null &&
            refusal(() => parseTimecode(video.timecode!, plan.rate!)) !== undefined
          }
          onSay={(timecode) => set({ timecode: timecode === '' ? null : timecode.slice(0, 16) })}
        />
      </Pair>
      {/^(mp4|mov)$/.test(endingOf(spec)) && (
        <FormControlLabel
          control={<Checkbox size="small" checked={video.fastStart} onChange={(_, fastStart) => set({ fastStart })} />}
          label="Players can begin before all of it is there"
        />
      )}
    </Box>
  );
}

/** What is heard: the clip's own sound, none, or a file that is laid under. */
export function SoundEditor({ source, spec, plan, change }: Editing) {
  const { sound } = spec;
  const set = (part: Partial<Spec['sound']>) => change({ ...spec, sound: { ...sound, ...part } });
  const own = source.facts?.clip?.sound !== undefined;
  if (!isVideoFormat(spec.write.format))
    return (
      <FormControlLabel
        control={
          <Checkbox size="small" checked={sound.beside} disabled={!own} onChange={(_, on) => set({ beside: on })} />
        }
        label="Its sound is written beside the frames as WAV"
      />
    );
  const kind = typeof sound.from === 'string' ? sound.from : 'file';
  const takesAac = spec.write.format === 'h264' || spec.write.format === 'h265';
  return (
    <Box sx={gap}>
      <OneOf
        label="Sound"
        value={kind}
        options={[
          {
            value: 'own',
            words: 'The clip’s own',
            note: own ? 'From where the pictures begin.' : 'This source has none.',
          },
          { value: 'none', words: 'None' },
          { value: 'file', words: 'A file, laid under', note: 'Choose it below.', disabled: kind !== 'file' },
        ]}
        onChoose={(from) => from !== 'file' && set({ from })}
      />
      <SourcePicker
        label="A sound, or a clip with sound"
        value={typeof sound.from === 'string' ? null : sound.from}
        takes={(one) => one.kind === 'sound' || one.facts?.clip?.sound !== undefined}
        onSay={(from) => set({ from })}
      />
      {plan.sound && (
        <>
          <Typed
            label="Begins later, frames"
            mono
            value={String(sound.offset)}
            help="Below 0 it begins within."
            refuse={(text) => (/^-?\d{1,7}$/.test(text.trim()) ? undefined : 'A whole number of frames.')}
            onSay={(text) => set({ offset: Number(text) })}
          />
          <Typography sx={{ fontSize: 13 }} data-testid="sound-against">
            {soundAgainst(plan)}
          </Typography>
          {takesAac && (
            <Pair>
              <Choice
                label="As"
                value={sound.codec}
                options={[
                  ['aac', 'AAC'],
                  ['pcm', 'PCM'],
                ]}
                onSay={(codec) => set({ codec })}
              />
              {sound.codec === 'aac' && (
                <Whole
                  label="Kilobits a second"
                  value={sound.bitrate}
                  onSay={(bitrate) => bitrate !== null && bitrate >= 16 && bitrate <= 1024 && set({ bitrate })}
                />
              )}
            </Pair>
          )}
        </>
      )}
    </Box>
  );
}

/** How long a sound is against its picture, in frames and seconds. */
function soundAgainst({ sound, frames, rate, spec }: Plan): string {
  if (!sound?.seconds || !rate || sound.own) return 'It is cut or filled with silence to the length of the picture.';
  const length = (sound.seconds.num * rate.num) / (sound.seconds.den * rate.den) + spec.sound.offset;
  const off = Math.round(length - frames);
  const seconds = printSeconds(Math.abs((off * rate.den) / rate.num));
  if (off === 0) return 'It ends with the picture, to the frame.';
  return off > 0
    ? `It is ${plural(off, 'frame')} (${seconds}) longer than the picture: its end is cut off.`
    : `It is ${plural(-off, 'frame')} (${seconds}) shorter than the picture: silence follows.`;
}
