import type { Problem } from '../errors.ts';
import { burnFault } from '../spec/burn.ts';
import type { Spec } from '../spec/schema.ts';

/** What is wrong with the texts that are written into pictures. */
export const burnProblems = ({ burn }: Spec): Problem[] =>
  (['left', 'middle', 'right'] as const).flatMap((place) => {
    const fault = burnFault(burn[place]);
    return fault
      ? [
          {
            code: 'bad-burn',
            fact: `The text in the pictures on the ${place} does not fit: ${fault}`,
            wayOut: 'Correct it under "text in the pictures" in the sentence.',
            subject: `burn.${place}`,
          },
        ]
      : [];
  });
