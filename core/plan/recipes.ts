import { isVideoFormat, stillWrites } from '../formats/index.ts';
import type { Source } from '../numbering/source.ts';
import type { Primaries } from '../pixels/colourNames.ts';
import { mixesColours } from '../pixels/convert.ts';
import { isUntouched } from '../pixels/picture.ts';
import type { Recipe } from '../pixels/recipe.ts';
import { burnsText } from '../spec/burn.ts';
import type { Declaration } from '../spec/declaration.ts';
import { formatRules } from '../spec/formats.ts';
import type { Spec } from '../spec/schema.ts';
import type { PlannedOthers } from './others.ts';

/** What a source is taken to be; null where alpha or transfer are not declared. */
function takenOf(
  { alpha, transfer, primaries, pixelAspect, matte }: Declaration,
  otherwise?: Primaries,
): Recipe['from'] | null {
  if (alpha.value === null || transfer.value === null) return null;
  return {
    alpha: alpha.value,
    transfer: transfer.value,
    primaries: primaries.value ?? otherwise ?? 'bt709',
    pixelAspect: pixelAspect.value ?? { num: 1, den: 1 },
    matte: alpha.value === 'on-colour' ? matte.value : null,
  };
}

/** The way from a source's pictures to those of the results; null while alpha or transfer are not declared. */
export function recipeOf(declaration: Declaration, { write, picture }: Spec, { under }: PlannedOthers): Recipe | null {
  // Primaries that nobody asks to be changed need no name.
  const from = takenOf(declaration, write.primaries ?? undefined);
  if (!from) return null;
  return {
    from,
    under: under ? takenOf(under.declaration) : null,
    picture,
    to: {
      alpha: write.alpha,
      transfer: write.transfer,
      primaries: write.primaries ?? from.primaries,
      sample: write.sample,
      matte: write.alpha === 'premultiplied' ? write.matte : null,
    },
  };
}

/** Format, depth, alpha and transfer as they are: the file itself is the result. */
export function copiesBytes(source: Source, declaration: Declaration, spec: Spec, recipe: Recipe | null): boolean {
  const { facts } = source;
  if (source.kind === 'clip' || spec.missing === 'slate' || burnsText(spec.burn)) return false;
  if (!facts || facts.format !== spec.write.format || facts.sample !== spec.write.sample) return false;
  if (!isUntouched(spec.picture) || recipe === null || mixesColours(recipe)) return false;
  if (declaration.transfer.value !== spec.write.transfer) return false;
  const { write } = spec;
  if (isVideoFormat(write.format)) return false;
  // A copy is what every setting asks for already: of how much a file has lost no header tells.
  const { compressedAs, lossy } = stillWrites(write.format);
  if (compressedAs ? facts.compression !== compressedAs(write) : lossy?.(write) !== undefined) return false;
  return facts.hasAlpha
    ? declaration.alpha.value === spec.write.alpha
    : formatRules[spec.write.format].alpha || spec.write.alpha === 'none';
}
