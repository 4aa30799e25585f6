import { z } from 'zod';

/** How far something may be given up so that a file is within a limit. */
export const floorSchema = z
  .object({
    /** What it goes down to, in its own unit. */
    floor: z.int().min(0).max(1_000_000),
    /** How soon it is given up beside others: one of 2 is at its floor when one of 1 is half way. */
    weight: z.int().min(1).max(9).default(1),
  })
  .strict();
export type Floor = z.infer<typeof floorSchema>;

/** A floor within a range, or null: it stays as it is. */
export const floorField = (least: number, most: number, usual: Floor | null) =>
  floorSchema
    .refine(({ floor }) => floor >= least && floor <= most, `A floor is ${least} to ${most}`)
    .nullable()
    .default(usual);

/** `20`, or `20:3` with a weight other than 1. */
export const printFloor = ({ floor, weight }: Floor): string => (weight === 1 ? `${floor}` : `${floor}:${weight}`);
