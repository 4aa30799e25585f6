import { writesAlpha } from '../pixels/recipe.ts';
import { uprightBy } from '../pixels/orientation.ts';
import type { Source } from '../numbering/source.ts';
import { ShaleError } from '../errors.ts';
import { readWith } from '../readWith.ts';
import { transferSchema, type Transfer } from '../pixels/colourNames.ts';
import type { Declaration } from './declaration.ts';
import { formatRules } from './formats.ts';
import { specSchema, type Spec } from './schema.ts';
import { resizeSchema } from '../pixels/picture.ts';
import { isVideoFormat } from '../formats/index.ts';
import { isAnimationFormat } from './video.ts';

/**
 * Reads a spec from anything.
 * @throws ShaleError `bad-spec` that names the field; `spec-too-new` for one of a later version
 */
export function parseSpec(value: unknown): Spec {
  const version = (value as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > 1) {
    throw new ShaleError({
      code: 'spec-too-new',
      fact: `The spec has version ${version}; this version of Shale reads version 1.`,
      wayOut: 'Update Shale, or save the spec again as version 1.',
      subject: 'version',
    });
  }
  return readWith(specSchema, value, {
    code: 'bad-spec',
    what: 'The spec',
    wayOut: 'Correct the field; docs/specs.md lists what each field takes.',
  });
}

/** A spec to begin with: 8-bit PNG with straight alpha, numbers kept, four digits; in sRGB, a clip's pictures in their own curve. */
export function startingSpec(source: Source, declaration: Declaration): Spec {
  const hasAlpha = declaration.alpha.value !== 'none' && declaration.alpha.value !== 'ignore';
  return parseSpec({
    version: 1,
    write: {
      format: 'png',
      sample: 'u8',
      alpha: hasAlpha ? 'straight' : 'none',
      transfer: displayCurve(source, declaration),
    },
    names: { template: `{stem}.{frame:${Math.max(4, source.pattern?.padding ?? 4)}}.{ext}` },
    // A picture that asks to be turned is: what is shown everywhere else is what comes out.
    picture: uprightBy(source.facts?.orientation),
  });
}

/** The curve in which values are shown as they are: a video's own where it is one for screens, else sRGB. */
function displayCurve(source: Source, { transfer }: Declaration): Transfer {
  const own = transferSchema.safeParse(transfer.value);
  const isForScreens = own.success && !['linear', 'film-log', 'pq', 'hlg'].includes(own.data);
  return source.kind === 'clip' && isForScreens ? own.data : 'srgb';
}

/** A spec of a video that plays easily: H.264, or VP9 where alpha is to stay. @param scale of each side, above 0 to 1 */
export function lightSpec(start: Spec, scale: number): Spec {
  const keepsAlpha = writesAlpha(start.write.alpha);
  const spec = withFormat(start, keepsAlpha ? 'vp9' : 'h264');
  const picture =
    scale < 1
      ? { ...spec.picture, resize: resizeSchema.parse({ to: { by: 'percent', percent: scale * 100 } }) }
      : spec.picture;
  return { ...spec, picture, video: { ...spec.video, oddSize: 'crop', crf: keepsAlpha ? 30 : 21 } };
}

/** Whether a source has alpha that is used. */
export const hasAlphaIn = ({ declaration }: { declaration: Declaration }): boolean =>
  declaration.alpha.value !== 'none' && declaration.alpha.value !== 'ignore';

/**
 * A spec for another format: depth, alpha and transfer follow where that format does not hold them as they are.
 * @param free what was wanted before a format forced anything: tried formats leave no trace in it
 */
export function withFormat(spec: Spec, format: Spec['write']['format'], free: Spec['write'] = spec.write): Spec {
  const rules = formatRules[format];
  const { alpha, sample, transfer } = free;
  const write = { ...spec.write, format, alpha, sample, transfer };
  if (!rules.samples.includes(write.sample)) write.sample = rules.samples[0]!;
  const hasAlpha = writesAlpha(write.alpha);
  if (hasAlpha && !rules.alpha) write.alpha = 'none';
  else if (hasAlpha && rules.alphaRule) write.alpha = rules.alphaRule;
  // A video is as deep as most players read, until it is said otherwise.
  if (isVideoFormat(format) && !isVideoFormat(free.format) && rules.samples.includes('u8') && !rules.lossless)
    write.sample = 'u8';
  // Players and editors take a video for BT.709 where they do not look at what it says.
  const isForPlayers = isVideoFormat(format) && !rules.lossless && !isAnimationFormat(format);
  if (isForPlayers && !isVideoFormat(free.format) && ['srgb', 'linear'].includes(transfer)) write.transfer = 'bt709';
  // What comes from light to others is to be looked at.
  else if (rules.light) write.transfer = 'linear';
  else if (formatRules[free.format].light) write.transfer = 'srgb';
  return { ...spec, write };
}

/** A spec for one layer of several, its name in those of the results: before the number, where the template does not say where. */
export function ofLayer(spec: Spec, layer: string | null): Spec {
  const { template } = spec.names;
  const named = template.includes('{layer') ? template : template.replace('{stem}', '{stem}_{layer}');
  return { ...spec, picture: { ...spec.picture, layer }, names: { ...spec.names, template: named } };
}
