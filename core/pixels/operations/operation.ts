import type { z } from 'zod';

/** What an operation does to samples: puts other pixels in their place, mixes colours, or takes other channels than the file's main ones. */
export type Doing = 'moves' | 'mixes' | 'chooses';

export interface Size {
  width: number;
  height: number;
}

/** Width to height of a pixel. */
export interface Aspect {
  num: number;
  den: number;
}

/**
 * All that is known about a picture operation but how it is carried out, which stands in `workshop.ts` and `geometry.ts`.
 * @typeParam V what it is set to, the value at rest included
 */
export interface Operation<S extends z.ZodType = z.ZodType, V = z.output<S>> {
  schema: S;
  /** As the list of the spec calls it; operations that follow one another with one label share a row. */
  label: string;
  /** Where nothing is done, in a few words. */
  rest: string;
  isAtRest(value: V): boolean;
  /** What is done where it is not at rest. */
  does(value: V): readonly Doing[];
  /** What is done in a few words, where it is not at rest. */
  row(value: V): string;
  /** The same within a sentence. */
  said(value: V): string;
  /** The size that comes out. @param aspect of the pixels as they come in */
  size?(size: Size, value: V, aspect: Aspect): Size;
  /** The aspect of pixels that comes out. */
  aspect?(aspect: Aspect, value: V): Aspect;
}

/** An operation, typed by its schema. */
export const operation = <S extends z.ZodType>(value: Operation<S>): Operation<S> => value;
