import { ShaleError, type Floor, type Spec } from '@shale/core';

const gives = {
  size: 'giveSize',
  colours: 'giveColours',
  dither: 'giveDither',
  quality: 'giveQuality',
  rate: 'giveRate',
  length: 'giveLength',
} as const satisfies Record<string, keyof Spec['video']>;

/**
 * What may be given up for a limit as `--give` says it: `size=20,colours=32:2` lets sides go down to 20 % and colours to 32, these twice
 * as soon; all that is not named stays. @throws ShaleError `bad-option`
 */
export function givesOf(text: string): Partial<Spec['video']> {
  const said: Partial<Record<(typeof gives)[keyof typeof gives], Floor | null>> = Object.fromEntries(
    Object.values(gives).map((name) => [name, null]),
  );
  for (const one of text.split(',')) {
    const [, name = '', floor, weight = '1'] = /^\s*([a-z]+)=(\d{1,6})(?::([1-9]))?\s*$/.exec(one) ?? [];
    if (!Object.hasOwn(gives, name))
      throw new ShaleError({
        code: 'bad-option',
        fact: `--give ${text} is not known.`,
        wayOut: `Write how far each may go, as size=20,colours=32:2; it may be ${Object.keys(gives).join(', ')}.`,
        subject: 'give',
      });
    said[gives[name as keyof typeof gives]] = { floor: Number(floor), weight: Number(weight) };
  }
  return said;
}
