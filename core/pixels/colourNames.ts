import { z } from 'zod';

/** The curves that are read and written. */
export const transferSchema = z.enum(['srgb', 'linear', 'bt709', 'gamma-2.2', 'gamma-2.4', 'film-log', 'pq', 'hlg']);
export type Transfer = z.infer<typeof transferSchema>;

/** The curves that a source can be declared to have: the same. */
export const declaredTransferSchema = transferSchema;
export type DeclaredTransfer = Transfer;

/** Primaries and white by the standards' names: ITU-R BT.709, SMPTE RP 431-2 with D65, ITU-R BT.2020, SMPTE ST 2065 AP1. */
export const primariesSchema = z.enum(['bt709', 'p3', 'bt2020', 'acescg']);
export type Primaries = z.infer<typeof primariesSchema>;

/**
 * How alpha relates to colour: straight, premultiplied on black, or laid over another colour (the fact `matte`); `none` where
 * there is no alpha, `ignore` where it is not to be used.
 */
export const alphaKindSchema = z.enum(['none', 'straight', 'premultiplied', 'on-colour', 'ignore']);
export type AlphaKind = z.infer<typeof alphaKindSchema>;

/** Width to height of a pixel as an exact fraction. */
export const pixelAspectSchema = z.object({ num: z.int().min(1).max(100_000), den: z.int().min(1).max(100_000) });

/** A colour by its samples as the file stores them, 0 to 1. */
export const matteSchema = z.tuple([z.number(), z.number(), z.number()]);
