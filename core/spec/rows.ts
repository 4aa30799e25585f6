import { modeWords, ruleWords } from '../naming/sentence.ts';
import type { NamingSpec } from '../naming/rules.ts';
import { sampleWords } from '../pixels/image.ts';
import { alphaOutWords } from '../pixels/recipe.ts';
import { primariesWords, transferWords } from './declaration.ts';
import { fieldsWords } from '../numbering/clipFacts.ts';
import { printRate } from '../timing/rate.ts';
import { formatRules } from './formats.ts';
import { damagedWords, missingWords, mixedWords, pictureRows, shotWords } from './pictureWords.ts';
import { burnTexts } from './burn.ts';
import { markedWords } from './marker.ts';
import type { Spec } from './schema.ts';
import { timeSaid } from './time.ts';
import { isVideoFormat, stillWrites } from '../formats/index.ts';
import { endingOf, videoWords } from './video.ts';

/** The setting by which a format compresses. */
const compressionWords = ({ write, video }: Pick<Spec, 'write' | 'video'>): string =>
  isVideoFormat(write.format)
    ? `${videoWords(write.format, video)}, in ${endingOf({ write, video }).toUpperCase()}`
    : stillWrites(write.format).compression(write);

const soundWords = ({ from, offset, later, codec, beside, stream, depth }: Spec['sound']): string =>
  [
    from === 'own' ? 'the clip’s own' : from === 'none' ? 'none' : from.name,
    ...(offset === 0 ? [] : [`${offset} frames later`]),
    ...(later === 0 ? [] : [`${later} samples later`]),
    ...(stream === null ? [] : [`stream ${stream}`]),
    codec.toUpperCase(),
    ...(depth === 'source' ? [] : [depth === 'float' ? 'float' : `${depth}-bit`]),
    ...(beside ? ['WAV beside stills'] : []),
  ].join(', ');

/** What a spec says, field by field: a label and a few words. The same labels in the same order for every spec. */
export function specRows({
  frames,
  marked,
  then,
  clip,
  time,
  burn,
  channels,
  missing,
  damaged,
  mixed,
  video,
  sound,
  write,
  picture,
  names,
  into,
  existing,
  readBack,
}: Spec): [label: string, words: string][] {
  return [
    ['Frames', frames === 'markers' ? markedWords(marked) : frames],
    ['Then', then.map(shotWords).join(', ') || 'nothing'],
    ['Time', timeSaid(time).join(', ') || 'its own speed'],
    ['Text in the pictures', burnTexts(burn).join(', ') || 'nothing'],
    ['Title card', burn.slate === 0 ? 'none' : `${burn.slate} frames`],
    ['Of clips', clip.fields === 'keep' ? 'pictures as stored' : fieldsWords[clip.fields]],
    [
      'Times',
      clip.timing === 'every-picture'
        ? 'every picture once'
        : `constant, ${clip.rate ? printRate(clip.rate) : 'as declared'}`,
    ],
    ['If a frame is missing', missingWords[missing]],
    ['If a frame is damaged', damagedWords[damaged]],
    ['If a picture differs', mixedWords[mixed]],
    ['Format', formatRules[write.format].words],
    ['Channels', channels.length === 0 ? 'the picture’s' : channels.map(({ as }) => as).join(', ')],
    ['Depth', sampleWords(write.sample)],
    ['Compression', compressionWords({ write, video })],
    ['Alpha', alphaOutWords[write.alpha]],
    ['Transfer', transferWords[write.transfer]],
    ['Primaries', write.primaries ? primariesWords[write.primaries] : 'the source’s'],
    ...pictureRows(picture).map(({ label, words }): [string, string] => [label, words]),
    ['Sound', soundWords(sound)],
    ['Names', isVideoFormat(write.format) ? video.name : names.template],
    ['Stem', names.stem ?? 'the source’s'],
    ['First number', names.first === null ? 'the source’s' : String(names.first)],
    ['Numbers', names.closeUp ? 'one after another' : 'as the source’s'],
    ['Root', into.root],
    ['Folder', into.folder ?? 'the stem'],
    ['Names that exist', existing === 'replace' ? 'are replaced' : 'stop the run'],
    ['Read back', readBack ? 'every file' : 'no'],
  ];
}

/** What a stack of naming rules says, a row for each rule. */
export const stackRows = ({ rules, mode, join }: NamingSpec): [label: string, words: string][] => [
  ['Files', `${modeWords[mode]}${join ? ', joined end to end' : ''}`],
  ...rules.map((rule, at): [string, string] => [
    `Rule ${at + 1}`,
    rule.on ? ruleWords(rule) : `off: ${ruleWords(rule)}`,
  ]),
];
