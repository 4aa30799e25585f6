import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import FormControlLabel from '@mui/material/FormControlLabel';
import Checkbox from '@mui/material/Checkbox';
import Typography from '@mui/material/Typography';
import {
  chromaOf,
  frameCount,
  fieldsSchema,
  soundCodecOf,
  takesAac,
  fieldsWords,
  isVideoFormat,
  parseRate,
  parseTimecode,
  printSeconds,
  problemOf,
  rateFraction,
  videoCase,
  videoFields,
  type Field,
  type Plan,
  type Spec,
  type VideoCase,
  type VideoFieldName,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { OneOf, Typed } from '../../sentence/fields.tsx';
import { useStartChecksMutation } from '../../api/api.ts';
import { SourcePicker } from '../../pieces/SourcePicker.tsx';
import { RecordField } from '../../pieces/RecordField.tsx';
import { Choice, Pair, Whole } from '../../pieces/slimFields.tsx';
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
  const writesVideo = isVideoFormat(spec.write.format);
  return (
    <OneOf
      label="If a frame is missing"
      value={spec.missing}
      options={[
        { value: 'stop', words: 'Stop', note: 'Nothing is written until the frame is there.' },
        { value: 'hold', words: 'Repeat the previous frame', note: 'The timing does not change.' },
        { value: 'slate', words: 'Insert a slate', note: 'A dark picture showing the missing number.' },
        writesVideo
          ? { value: 'leave-out', words: 'Close up', note: 'The video becomes shorter.' }
          : { value: 'leave-out', words: 'Leave it out', note: 'Its number stays unused in the result.' },
      ]}
      onChoose={(missing) => change({ ...spec, missing })}
    />
  );
}

/** What becomes of frames whose file is empty or damaged. */
export function DamagedEditor({ source, spec, change }: Editing) {
  const [startChecks] = useStartChecksMutation();
  const isVideo = isVideoFormat(spec.write.format);
  const checked = source.checked ?? 0;
  return (
    <Box sx={gap}>
      <OneOf
        label="If a frame is damaged"
        value={spec.damaged}
        options={[
          {
            value: 'fail',
            words: 'Fail',
            note: isVideo ? 'The video is not started.' : 'Its result is not written; all others are.',
          },
          {
            value: 'as-missing',
            words: 'Treat it as missing',
            note: 'Handled like a missing frame; the receipt lists it.',
          },
        ]}
        onChoose={(damaged) => change({ ...spec, damaged })}
      />
      {checked < frameCount(source) && (
        <Button variant="outlined" onClick={() => void startChecks([source.id])}>
          Check every frame
        </Button>
      )}
    </Box>
  );
}

/** How a clip is taken apart: its fields, and its pictures in time. */
export function ClipEditor({ source, spec, plan, change }: Editing) {
  const { clip } = spec;
  const facts = source.facts?.clip;
  const set = (part: Partial<Spec['clip']>) => change({ ...spec, clip: { ...clip, ...part } });
  const seen = {
    interlaced: 'Interlaced lines found.',
    pulldown: 'Pulldown found.',
    progressive: 'Each picture is progressive.',
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
            note: 'Ignores timestamps: nothing is dropped or repeated.',
          },
          {
            value: 'constant-rate',
            words: 'At a constant rate',
            note: 'By timestamp: each frame gets the picture on screen at its midpoint.',
          },
        ]}
        onChoose={(timing) => set({ timing })}
      />
      {clip.timing === 'constant-rate' && (
        <Typed
          label="Rate"
          mono
          value={plan.rate ? rateFraction(plan.rate) : ''}
          help="Frames per second, such as 24, 23.976 or 30000/1001."
          refuse={(text) => refusal(() => parseRate(text))}
          onSay={(text) => set({ rate: parseRate(text) })}
        />
      )}
    </Box>
  );
}

/** Fields that stand below the others, one to a line. */
const below = new Set<VideoFieldName>(['fastStart']);

/** How a video is written: every field that its codec knows. */
export function VideoEditor({ spec, change, plan }: Editing) {
  const { video, write } = spec;
  const at = videoCase(write, video);
  const { rate } = plan;
  const isWrong = (name: VideoFieldName): boolean =>
    name === 'timecode' &&
    video.timecode !== null &&
    rate !== null &&
    refusal(() => parseTimecode(video.timecode!, rate)) !== undefined;
  const field = ([name, record]: [VideoFieldName, Field<Field['schema'], VideoCase>]) => (
    <RecordField
      key={name}
      field={record}
      at={at}
      value={name === 'chroma' ? chromaOf(write.format, video) : video[name]}
      error={isWrong(name)}
      onSay={(value) => change({ ...spec, video: { ...video, [name]: value } })}
    />
  );
  const all = Object.entries(videoFields) as [VideoFieldName, Field<Field['schema'], VideoCase>][];
  return (
    <Box sx={gap}>
      <Pair>{all.filter(([name]) => !below.has(name)).map(field)}</Pair>
      {all.filter(([name]) => below.has(name)).map(field)}
    </Box>
  );
}

/** What is heard: the clip's own sound, none, or a file that is laid under. */
export function SoundEditor({ source, spec, plan, change }: Editing) {
  const { sound } = spec;
  const set = (part: Partial<Spec['sound']>) => change({ ...spec, sound: { ...sound, ...part } });
  const own = source.facts?.clip?.sound !== undefined;
  const streams = (typeof sound.from === 'string' && source.facts?.clip?.sound?.streams) || 1;
  const streamField = (streams > 1 || sound.stream !== null) && (
    <Whole
      label={streams > 1 ? `Stream, 1 to ${streams}` : 'Stream'}
      value={sound.stream}
      placeholder="the usual"
      onSay={(stream) => (stream === null || (stream >= 1 && stream <= 64)) && set({ stream })}
    />
  );
  const depthField = (
    <Choice
      label="Bits of a sample"
      value={sound.depth}
      options={[
        ['source', 'as the source'],
        ['16', '16'],
        ['24', '24'],
        ['float', '32, float'],
      ]}
      onSay={(depth) => set({ depth })}
    />
  );
  if (!isVideoFormat(spec.write.format))
    return (
      <Box sx={gap}>
        <FormControlLabel
          control={
            <Checkbox size="small" checked={sound.beside} disabled={!own} onChange={(_, on) => set({ beside: on })} />
          }
          label="Write its sound as WAV next to the frames"
        />
        {sound.beside && own && (
          <Pair>
            {depthField}
            {streamField}
          </Pair>
        )}
      </Box>
    );
  const kind = typeof sound.from === 'string' ? sound.from : 'file';
  return (
    <Box sx={gap}>
      <OneOf
        label="Sound"
        value={kind}
        options={[
          {
            value: 'own',
            words: 'The clip’s own',
            note: own ? 'Starts with the pictures.' : 'This source has no sound.',
          },
          { value: 'none', words: 'None' },
          { value: 'file', words: 'A sound file', note: 'Choose it below.', disabled: kind !== 'file' },
        ]}
        onChoose={(from) => from !== 'file' && set({ from })}
      />
      <SourcePicker
        label="A sound, or a clip with sound"
        value={typeof sound.from === 'string' ? null : sound.from}
        sounds
        onSay={(from) => set({ from })}
      />
      {plan.sound && (
        <>
          <Typed
            label="Delay, frames"
            mono
            value={String(sound.offset)}
            help="A negative delay skips its beginning."
            refuse={(text) => (/^-?\d{1,7}$/.test(text.trim()) ? undefined : 'A whole number of frames.')}
            onSay={(text) => set({ offset: Number(text) })}
          />
          <Typed
            label="Delay, samples"
            mono
            value={String(sound.later)}
            help="Added to the frames, at the rate of the sound."
            refuse={(text) => (/^-?\d{1,9}$/.test(text.trim()) ? undefined : 'A whole number of samples.')}
            onSay={(text) => set({ later: Number(text) })}
          />
          <Typography sx={{ fontSize: 13 }} data-testid="sound-against">
            {soundAgainst(plan)}
          </Typography>
          {streamField}
          {soundCodecOf(spec.write.format, spec.video, sound) === 'pcm' && depthField}
          {takesAac(spec.write.format) && (
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
  if (!sound?.seconds || !rate || sound.own) return 'Cut or filled with silence to the length of the picture.';
  const length = (sound.seconds.num * rate.num) / (sound.seconds.den * rate.den) + spec.sound.offset;
  const off = Math.round(length - frames);
  const seconds = printSeconds(Math.abs((off * rate.den) / rate.num));
  if (off === 0) return 'It ends with the picture, to the frame.';
  return off > 0
    ? `It is ${plural(off, 'frame')} (${seconds}) longer than the picture: its end is cut off.`
    : `It is ${plural(-off, 'frame')} (${seconds}) shorter than the picture: silence follows.`;
}
