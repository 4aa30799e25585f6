import { ShaleError } from '@shale/core';
import type { OfferedFile } from '@shale/contract';

/** Names that stand for devices on some systems, whatever their ending. */
const devices = /^(con|prn|aux|nul|com\d|lpt\d|conin\$|conout\$)(\.|$)/i;

const refuse = (path: string, fact: string): ShaleError =>
  new ShaleError({
    code: 'bad-name',
    fact: `"${path.slice(0, 120)}" ${fact}`,
    wayOut: 'Rename it, or leave it out, and upload the rest.',
    subject: path,
  });

/** Why a step of a path is not taken; undefined where it is. */
function wrongStep(step: string, at: number, steps: readonly string[]): string | undefined {
  if (step === '' || step === '.' || step === '..') return 'leads outside its folder.';
  if (/[\\\u0000-\u001f\u007f]/.test(step)) return 'holds a character that no file name may hold.';
  if (devices.test(step)) return 'is a reserved device name.';
  if (/[. ]$/.test(step)) return 'ends with a dot or a space, which other systems drop silently.';
  if (step.startsWith('.shale-')) return 'begins like a temporary file of Shale.';
  if (step.startsWith('.') && at < steps.length - 1) return 'is in a hidden folder, which Shale does not scan.';
  return Buffer.byteLength(step) > 255 ? 'is longer than a file system takes.' : undefined;
}

/**
 * Looks through the paths that a browser offers: nothing in them is trusted.
 * @throws ShaleError `bad-name` that names the first file that is not taken, `doubled-name` where two have one path, or one is the
 * folder of another
 */
export function checkOffered(files: readonly OfferedFile[]): void {
  const seen = new Set<string>();
  for (const { path } of files) {
    const wrong = path.split('/').map(wrongStep).find(Boolean);
    if (wrong) throw refuse(path, wrong);
    if (seen.has(path)) {
      throw new ShaleError({
        code: 'doubled-name',
        fact: `"${path}" is offered twice.`,
        wayOut: 'Upload each file once.',
        subject: path,
      });
    }
    seen.add(path);
  }
  for (const { path } of files) {
    for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1)) {
      const folder = path.slice(0, at);
      if (!seen.has(folder)) continue;
      throw new ShaleError({
        code: 'doubled-name',
        fact: `"${folder}" is offered as a file, and as the folder of "${path.slice(0, 120)}".`,
        wayOut: 'Rename one of them, and upload them again.',
        subject: folder,
      });
    }
  }
}

/** A folder's name made of what the browser calls the drop: plain letters, no step, no device; `drop` where nothing is left. */
export function folderName(name: string): string {
  const plain = name
    .split('/')
    .pop()!
    .replace(/[\\:*?"<>|\u0000-\u001f]/g, '_')
    .replace(/^\.+|[. ]+$/g, '')
    .slice(0, 60);
  return plain === '' || devices.test(plain) ? 'drop' : plain;
}
