import type { Problem } from '../errors.ts';
import type { Facts } from '../numbering/source.ts';
import { mostAcross, mostPixels, sizeAfter, turnedSize, type Size } from '../pixels/picture.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Spec } from '../spec/schema.ts';
import type { Plan } from './plan.ts';

const across = ({ width, height }: Size): string => `${width} x ${height}`;

/** The size of a plan's results; undefined where nothing is known of the source's. */
export function sizeOfPlan({
  source,
  spec,
  declaration,
}: Pick<Plan, 'source' | 'spec' | 'declaration'>): Size | undefined {
  return source.facts && sizeAfter(source.facts, spec.picture, declaration.pixelAspect.value ?? undefined);
}

/** What of a picture's work cannot be done with pictures like these. */
export function pictureProblems(
  name: string,
  facts: Facts,
  declaration: Declaration,
  { picture, write }: Spec,
): Problem[] {
  const problems: Problem[] = [];
  const add = (code: string, fact: string, wayOut: string, subject: string) =>
    problems.push({ code, fact, wayOut, subject });
  const { crop } = picture;
  const turned = turnedSize(facts, picture);
  if (crop && (crop.left + crop.width > turned.width || crop.top + crop.height > turned.height)) {
    add(
      'crop-outside',
      `The crop reaches to ${crop.left + crop.width}, ${crop.top + crop.height}, and pictures of ${name} are ${across(turned)}.`,
      'Choose a crop within the picture.',
      'picture.crop',
    );
  }
  const size = sizeAfter(facts, picture, declaration.pixelAspect.value ?? undefined);
  if (size.width > mostAcross || size.height > mostAcross || size.width * size.height > mostPixels) {
    add(
      'size-too-large',
      `Results would be ${across(size)} pixels; Shale writes up to 65,536 on a side and 536,870,912 in all.`,
      'Choose a smaller size.',
      'picture.resize',
    );
  }
  const grey = facts.channels.includes('Y');
  if (picture.key && grey) {
    add('key-needs-colour', `${name} is grey: it has no screen colour to key.`, 'Remove the key.', 'picture.key');
  }
  const hasAlpha =
    (facts.hasAlpha && declaration.alpha.value !== 'ignore') || picture.key !== null || picture.alphaFrom !== null;
  if (write.alpha === 'matte' && (!hasAlpha || picture.over)) {
    add(
      'no-alpha-to-extract',
      picture.over
        ? 'Only alpha is wanted, but the picture is laid over a colour and then has none.'
        : `Only alpha is wanted, but ${name} has none.`,
      picture.over ? 'Remove one of the two.' : 'Choose a source with alpha, or make alpha by a key.',
      'write.alpha',
    );
  }
  if (picture.layer !== null && facts.layers?.includes(picture.layer) !== true) {
    add(
      'no-such-layer',
      `${name} has no layer "${picture.layer}".`,
      facts.layers ? `It has ${facts.layers.join(', ')}.` : 'It has only its main picture.',
      'picture.layer',
    );
  }
  if (write.primaries !== null && declaration.primaries.value === null) {
    add(
      'primaries-not-declared',
      `The primaries are to change, but nothing says which ${name} has.`,
      'Declare its primaries on Inspect, or leave them as they are.',
      'declaration.primaries',
    );
  }
  return problems;
}
