import { receiverFileSchema, specFileSchema, stackFileSchema, type Problem } from '@shale/core';
import { z } from 'zod';
import { saveText } from '../../pieces/save.ts';

const fileSchema = z.discriminatedUnion('shale', [receiverFileSchema, specFileSchema, stackFileSchema]);
/** A file of receivers, of specs or of naming rules. */
export type HandedFile = z.output<typeof fileSchema>;

/** Gives the browser a file to keep. */
export function download(name: string, value: HandedFile): void {
  saveText(name, `${JSON.stringify(value, null, 2)}\n`, 'application/json');
}

/** A name as a file's. */
export const fileName = (name: string): string =>
  `${
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'shale'
  }.json`;

/** Reads a file that a Shale handed out, or says what is wrong with it. */
export async function readHanded(file: File): Promise<HandedFile | Problem> {
  const refuse = (fact: string): Problem => ({
    code: 'bad-file',
    fact: `${file.name}: ${fact}`,
    wayOut: 'Choose a file that Export of this page made; nothing was changed.',
    subject: file.name,
  });
  if (file.size > 2 << 20) return refuse('it is too large for such a file.');
  try {
    const parsed = fileSchema.safeParse(JSON.parse(await file.text()));
    if (parsed.success) return parsed.data;
    const [issue] = parsed.error.issues;
    return refuse(`the field "${issue!.path.join('.') || 'shale'}" does not fit: ${issue!.message}.`);
  } catch {
    return refuse('it is not JSON.');
  }
}
