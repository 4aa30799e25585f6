import { z } from 'zod';
import { receiverFieldSchemas } from './fields.ts';

/** The rules of a tool that reads what is handed over. A rule that is null asks for nothing. */
export const receiverSchema = z
  .object({
    version: z.literal(1),
    name: z.string().trim().min(1).max(80),
    /** What it is, in a line. */
    about: z.string().max(300).default(''),
    ...receiverFieldSchemas,
  })
  .strict();
export type Receiver = z.output<typeof receiverSchema>;
export type ReceiverInput = z.input<typeof receiverSchema>;

/** Receivers as they are handed from one Shale to another. */
export const receiverFileSchema = z
  .object({ shale: z.literal('receivers'), version: z.literal(1), receivers: z.array(receiverSchema).min(1).max(200) })
  .strict();
