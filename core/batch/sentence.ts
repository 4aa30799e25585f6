import { isVideoFormat } from '../formats/index.ts';
import { burnSaid, colourSaid, formatSaid, Spoken, type SentencePart } from '../plan/sentence.ts';
import { damagedWords, missingWords, mixedWords, pictureSaid } from '../spec/pictureWords.ts';
import type { Spec } from '../spec/schema.ts';
import { timeSaid } from '../spec/time.ts';
import { endingOf, videoWords } from '../spec/video.ts';
import { printRate } from '../timing/rate.ts';
import type { Batch } from './batch.ts';
import type { SpokenSources } from './spoken.ts';

/**
 * A batch read aloud: what is said of each source is said of none, and what its name or place gives is a field in braces. Each
 * part says which output it speaks of.
 * @param words the sources: `12 sequences`, or the name where there is one
 * @param rates each declared rate once, null where one has none
 * @param whole whether what stays as it is in each source is told too
 */
export function sentenceOfBatch(
  { outputs }: Batch,
  words: string,
  rates: SpokenSources['rates'] = [],
  whole: boolean = false,
): SentencePart[] {
  const spoken = new Spoken();
  const [same] = rates.length === 1 ? rates : [null];
  spoken.say('Take ').control('source', words).say(' as ');
  spoken.control('rate', same ? printRate(same) : 'declared', { doubt: rates.some((rate) => !rate) });
  for (const [output, spec] of outputs.entries()) sayOutput(spoken, spec, output, whole);
  return spoken.end();
}

/** What an output is, under which names, where; what is as it was is left out. */
function sayOutput(spoken: Spoken, spec: Spec, output: number, whole: boolean): void {
  const { write, names, video, into } = spec;
  const isVideo = isVideoFormat(write.format);
  const of = { output };
  spoken.say(output === 0 ? ' write ' : ' and ', ';').control('format', formatSaid(spec), of);
  if (isVideo) spoken.say(' at ').control('video', videoWords(write.format, video), of);
  spoken.say(' with ').control('alphaOut', colourSaid(spec), of);
  const picture = pictureSaid(spec.picture);
  if (spec.frames !== 'all') spoken.say(' frames ', ',').control('frames', spec.frames, { ...of, mono: true });
  if (picture.length > 0) spoken.say(' ', ',').control('picture', picture.join(', '), of);
  else if (whole) spoken.say(' the picture ', ',').control('picture', 'as it is', of);
  const time = timeSaid(spec.time);
  if (whole || time.length > 0) spoken.say(' ', ',').control('time', time.join(', ') || 'at its own speed', of);
  if (whole || spec.missing !== 'leave-out')
    spoken.say(' missing frames ', ',').control('missing', missingWords[spec.missing], of);
  if (whole || spec.damaged !== 'fail')
    spoken.say(' damaged frames ', ',').control('damaged', damagedWords[spec.damaged], of);
  if (whole || spec.mixed !== 'stop')
    spoken.say(' pictures that differ ', ',').control('mixed', mixedWords[spec.mixed], of);
  const burns = burnSaid(spec);
  if (whole || burns !== 'nothing') spoken.say(' with ', ',').control('burn', burns, of).say(' written in');
  spoken.say(' named ', ',').control('name', nameSaid(spec), { ...of, mono: true });
  if (!isVideo && names.first !== null)
    spoken.say(' from ').control('first', String(names.first), { ...of, mono: true });
  const folder = into.folder ?? (isVideo ? '' : '{stem}');
  spoken.say(' into ', ',').control('into', `${into.root}/${folder}`.replace(/\/$/, ''), { ...of, mono: true });
  if (spec.existing === 'replace')
    spoken.say(' and ', ',').control('existing', 'replace what is there', { ...of, doubt: true });
}

/** A name with its fields: `{stem}.####.png`. */
function nameSaid(spec: Spec): string {
  const { names, video, write } = spec;
  const template = isVideoFormat(write.format) ? video.name : names.template;
  const filled = names.stem === null ? template : template.replaceAll('{stem}', names.stem);
  return filled
    .replaceAll('{ext}', endingOf(spec))
    .replace(/\{frame:(\d+)\}/g, (_, digits: string) => '#'.repeat(Number(digits)));
}
