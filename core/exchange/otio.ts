import { z } from 'zod';
import { ShaleError } from '../errors.ts';
import type { Marker } from '../spec/marker.ts';
import { rateFraction, standardRates, type Rate } from '../timing/rate.ts';
import { colourNamed, type EditList } from './events.ts';
import type { EditShot } from './edl.ts';

/** A time as OpenTimelineIO writes it: a value at a rate, as floating numbers. */
const timeSchema = z.object({ value: z.number(), rate: z.number().positive() });
const rangeSchema = z.object({ start_time: timeSchema, duration: timeSchema });
const markerSchema = z.looseObject({
  name: z.string().nullish(),
  comment: z.string().nullish(),
  color: z.string().nullish(),
  marked_range: rangeSchema,
  metadata: z.looseObject({}).nullish(),
});

interface Item {
  OTIO_SCHEMA: string;
  name?: string | null;
  source_range?: z.infer<typeof rangeSchema> | null;
  media_reference?: {
    target_url?: string;
    /** Of an ImageSequenceReference: what its frames are called, and by which number they begin. */
    name_prefix?: string;
    name_suffix?: string;
    start_frame?: number;
    frame_zero_padding?: number;
    name?: string | null;
    available_range?: z.infer<typeof rangeSchema> | null;
  } | null;
  media_references?: Record<string, Item['media_reference']>;
  active_media_reference_key?: string;
  children?: Item[];
  tracks?: Item;
  kind?: string;
  markers?: unknown[];
  metadata?: Record<string, unknown>;
  /** False where it is switched off. */
  enabled?: boolean;
  effects?: { OTIO_SCHEMA?: string; time_scalar?: number }[];
}

const kindOf = ({ OTIO_SCHEMA }: Item): string => OTIO_SCHEMA.replace(/\.\d+$/, '');

/** The exact rate that a floating one stands for. */
export function rateNear(value: number): Rate | undefined {
  return standardRates.find(({ num, den }) => Math.abs(num / den - value) < 0.005);
}

/**
 * Reads the first picture track of an OpenTimelineIO document: its clips as events, the markers of timeline, track and clips on the
 * result's time.
 * @param rate in which frames are counted
 * @throws ShaleError `bad-otio` for what is no such document
 */
export function readOtio(text: string, rate: Rate): EditList {
  const document = parsed(text);
  const stack = kindOf(document) === 'Timeline' ? document.tracks : document;
  const tracks = (stack?.children ?? []).filter((one) => kindOf(one) === 'Track');
  const ofPictures = tracks.filter(({ kind }) => (kind ?? 'Video') === 'Video');
  const track = kindOf(document) === 'Track' ? document : ofPictures[0];
  if (!track) throw refuse('The timeline has no track of pictures.');
  const list: EditList = { title: document.name ?? '', events: [], markers: [], problems: [] };
  const reading = new Reading(list, rate);
  if (ofPictures.length > 1)
    reading.say(
      'edit-tracks',
      'The timeline has several tracks of pictures; the first is used.',
      'Import a timeline with one track.',
    );
  reading.markers(document.markers, 0, 0, 'the timeline');
  if (stack && stack !== document) reading.markers(stack.markers, 0, 0, 'the stack');
  if (track !== document) reading.markers(track.markers, 0, 0, 'the track');
  let at = 0;
  for (const [index, item] of (track.children ?? []).entries())
    at += reading.item(item, item.name || `item ${index + 1}`, at);
  return list;
}

const refuse = (fact: string): ShaleError =>
  new ShaleError({ code: 'bad-otio', fact, wayOut: 'Import a timeline saved as OpenTimelineIO JSON (.otio).' });

/** @throws ShaleError `bad-otio` */
function parsed(text: string): Item {
  let document: Item;
  try {
    document = JSON.parse(text) as Item;
  } catch (error) {
    throw refuse(`The file is not JSON: ${(error as Error).message}.`);
  }
  if (typeof document?.OTIO_SCHEMA !== 'string') throw refuse('The file names no OTIO_SCHEMA.');
  return document;
}

/** Adds what is read of a document to a list; what cannot be read is told there, and the rest goes on. */
class Reading {
  constructor(
    private readonly list: EditList,
    private readonly rate: Rate,
  ) {}

  say(code: string, fact: string, wayOut: string): void {
    this.list.problems.push({ code, fact, wayOut });
  }

  /** Frames at our rate. A time that is not a whole frame is told. */
  private frames({ value, rate: of }: z.infer<typeof timeSchema>, what: string): number {
    const { rate } = this;
    const exact = rateNear(of);
    const at = exact ? (value * exact.den * rate.num) / (exact.num * rate.den) : (value * rate.num) / (of * rate.den);
    const whole = Math.round(at);
    if (Math.abs(at - whole) > 0.01)
      this.say(
        'edit-between',
        `${what} is between frames at ${rateFraction(rate)} fps; the nearest frame is used.`,
        'Set the rate of the timeline.',
      );
    return whole;
  }

  markers(some: readonly unknown[] | undefined, from: number, back: number, owner: string): void {
    for (const [index, one] of (some ?? []).entries()) {
      const at = `marker ${index + 1} of ${owner}`;
      const read = markerSchema.safeParse(one);
      if (!read.success) {
        const field = read.error.issues[0]!.path.join('.');
        this.say('edit-line', `${at} cannot be read: ${field} does not fit.`, 'Correct it, or remove it.');
        continue;
      }
      const { name, comment, color, marked_range: range, metadata } = read.data;
      const { colour } = (metadata?.shale ?? {}) as { colour?: unknown };
      const own = typeof colour === 'string' ? colourNamed(colour) : undefined;
      this.list.markers.push({
        at,
        frame: from + this.frames(range.start_time, at) - back,
        length: Math.max(1, this.frames(range.duration, at)),
        name: (name ?? '').trim(),
        note: (comment ?? '').trim(),
        colour: own ?? colourNamed(color ?? '') ?? 'verdigris',
      });
    }
  }

  /** One item of a track. @returns how many frames of the result it takes up */
  item(item: Item, what: string, at: number): number {
    const kind = kindOf(item);
    if (kind === 'Transition') {
      this.say('edit-transition', `${what} is a transition; it becomes a cut.`, 'Make it in the editing program.');
      return 0;
    }
    const media = item.media_reference ?? item.media_references?.[item.active_media_reference_key ?? 'DEFAULT_MEDIA'];
    const range = rangeSchema.safeParse(item.source_range ?? media?.available_range);
    if (!range.success) {
      this.say('edit-line', `${what} gives no range of its media.`, 'Correct it, or remove it.');
      return 0;
    }
    const [from, length] = [this.frames(range.data.start_time, what), this.frames(range.data.duration, what)];
    if (kind === 'Gap') {
      const fact = `${length} frames of nothing before frame ${at + length} are closed up.`;
      if (length > 0) this.say('edit-gap', fact, 'Put a shot there.');
      return length;
    }
    if (kind !== 'Clip') {
      this.say('edit-line', `${what} is a ${kind}, which is not read.`, 'Flatten it in the editing program.');
      return length;
    }
    if (length <= 0) {
      this.say('edit-range', `${what} has no length.`, 'Correct it, or remove it.');
      return 0;
    }
    if (item.enabled === false) {
      this.say('edit-disabled', `${what} is switched off and left out.`, 'Switch it on in the editing program.');
      return length;
    }
    for (const { OTIO_SCHEMA: effect = '', time_scalar: speed } of item.effects ?? [])
      if (/^(FreezeFrame|(Linear)?TimeWarp|TimeEffect)\b/.test(effect) && speed !== 1)
        this.say(
          'edit-speed',
          `${what} ${effect.startsWith('Freeze') ? 'holds one frame' : `plays at ${speed ?? 'another'} times its speed`}, which is not carried.`,
          'Retime the shot by a curve, or import a timeline without changes of speed.',
        );
    this.list.events.push({
      at: what,
      reel: reelOf(media) ?? what,
      clip: item.name ?? undefined,
      source: { from, to: from + length },
      record: { from: at, to: at + length },
    });
    this.markers(item.markers, at, from, what);
    return length;
  }
}

/** The file, or the frames, that a reference names. */
function reelOf(media: Item['media_reference']): string | undefined {
  if (media?.target_url) return decodeURIComponent(media.target_url.slice(media.target_url.lastIndexOf('/') + 1));
  if (media?.name_prefix === undefined) return undefined;
  return `${media.name_prefix}${'#'.repeat(Math.max(1, media.frame_zero_padding ?? 1))}${media.name_suffix ?? ''}`;
}

const time = (value: number, { num, den }: Rate) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: num / den });
const range = (from: number, length: number, rate: Rate) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(from, rate),
  duration: time(length, rate),
});

/** The colours of the format, by ours. */
const colours = {
  verdigris: 'GREEN',
  ochre: 'YELLOW',
  cinnabar: 'RED',
  slate: 'BLUE',
  plum: 'PURPLE',
  moss: 'GREEN',
  copper: 'ORANGE',
  chalk: 'WHITE',
} as const;

/** Writes shots one after another, and markers on the result counted from its first frame, as an OpenTimelineIO document. */
export function writeOtio(
  title: string,
  shots: readonly EditShot[],
  rate: Rate,
  markers: readonly Marker[] = [],
): string {
  const document = {
    OTIO_SCHEMA: 'Timeline.1',
    name: title,
    global_start_time: null,
    metadata: {},
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      name: 'tracks',
      metadata: {},
      children: [
        {
          OTIO_SCHEMA: 'Track.1',
          name: 'pictures',
          kind: 'Video',
          metadata: {},
          markers: markers.map(({ frame, length, name, note, colour }) => ({
            OTIO_SCHEMA: 'Marker.2',
            name,
            comment: note,
            color: colours[colour],
            marked_range: range(frame, length, rate),
            // Ours has more colours than the format.
            metadata: { shale: { colour } },
          })),
          children: shots.map(({ reel, name, from, to }) => ({
            OTIO_SCHEMA: 'Clip.2',
            name,
            metadata: {},
            source_range: range(from, to - from, rate),
            media_references: {
              DEFAULT_MEDIA: {
                OTIO_SCHEMA: 'ExternalReference.1',
                target_url: encodeURIComponent(reel),
                metadata: {},
                available_range: null,
              },
            },
            active_media_reference_key: 'DEFAULT_MEDIA',
          })),
        },
      ],
    },
  };
  return `${JSON.stringify(document, null, 2)}\n`;
}
