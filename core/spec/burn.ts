import { z } from 'zod';

/** What is written into the pictures, for films that are looked through. Fields in braces are filled in for each. */
export const burnSchema = z
  .object({
    left: z.string().max(200).default(''),
    middle: z.string().max(200).default(''),
    right: z.string().max(200).default(''),
    where: z.enum(['top', 'bottom']).default('bottom'),
    /** Height of the letters in hundredths of the picture's. */
    size: z.number().min(1).max(20).default(4),
    /** Pictures before a video that say what follows. */
    slate: z.int().min(0).max(600).default(0),
  })
  .strict();
export type Burn = z.infer<typeof burnSchema>;

/** The texts that are not empty, from left to right. */
export const burnTexts = ({ left, middle, right }: Burn): string[] => [left, middle, right].filter((one) => one !== '');

export const burnsText = (burn: Burn): boolean => burnTexts(burn).length > 0;

/** What each field of a text gives. */
export const burnFields = {
  frame: 'the number of the result',
  source: 'the number of its source frame',
  timecode: 'the time of the result',
  name: 'the name of its source',
  file: 'the name of the result',
  rate: 'frames per second of the results',
} as const;
export type BurnField = keyof typeof burnFields;

const field = /\{([^{}]*)\}/g;

/** What is wrong with a text, in words; undefined where nothing is. */
export function burnFault(text: string): string | undefined {
  for (const [whole, inside] of text.matchAll(field)) {
    const [name, digits, more] = inside!.split(':');
    if (!(name! in burnFields)) return `${whole} is not known; the fields are ${Object.keys(burnFields).join(', ')}.`;
    if (more !== undefined || (digits !== undefined && !/^([1-9]|1\d)$/.test(digits)))
      return `${whole} is not a width; write it as {frame:4}.`;
  }
  return /[{}]/.test(text.replace(field, '')) ? 'A brace is unmatched.' : undefined;
}

/** A text with its fields filled in. */
export const burnText = (text: string, values: Record<BurnField, string>): string =>
  text.replace(field, (_, inside: string) => {
    const [name, digits] = inside.split(':');
    return (values[name as BurnField] ?? '').padStart(Number(digits ?? 0), '0');
  });
