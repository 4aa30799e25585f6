import Papa from 'papaparse';
import type { Receipt, Written } from '../plan/receipt.ts';

/** A file as a manifest lists it. */
export interface Listed {
  /** Below the folder that the manifest is of, with `/`. */
  path: string;
  /** Where the manifest says it. */
  bytes?: number;
  /** Digests by their names in lower case, in the form in which the manifest has them. */
  digests: Partial<Record<'sha256' | 'md5' | 'sha1' | 'c4', string>>;
}

/** One line a file, as `sha256sum --check` reads it: a name with a line break or a backslash is escaped, and its line marked. */
export const writeSums = (files: readonly { name: string; sha256: string }[]): string =>
  files
    .map(({ name, sha256 }) => {
      const escaped = name.replaceAll('\\', '\\\\').replaceAll('\n', '\\n').replaceAll('\r', '\\r');
      return `${escaped === name ? '' : '\\'}${sha256}  ${escaped}\n`;
    })
    .join('');

const unescaped = (text: string): string =>
  text.replace(/\\([\\nr])/g, (_, one: string) => (one === 'n' ? '\n' : one === 'r' ? '\r' : '\\'));

/** Reads such lines; what is none is left out and counted. */
export function readSums(text: string): { files: Listed[]; odd: number } {
  const files: Listed[] = [];
  let odd = 0;
  for (const line of text.split('\n')) {
    if (line.trim() === '') continue;
    const parts = /^(\\?)([0-9a-fA-F]{32}|[0-9a-fA-F]{40}|[0-9a-fA-F]{64}) [ *](.+)$/.exec(line.replace(/\r$/, ''));
    if (!parts) {
      odd += 1;
      continue;
    }
    const [, escaped, sum, name] = parts as unknown as [string, string, string, string];
    const kind = sum.length === 64 ? 'sha256' : sum.length === 40 ? 'sha1' : 'md5';
    files.push({ path: escaped ? unescaped(name) : name, digests: { [kind]: sum.toLowerCase() } });
  }
  return { files, odd };
}

/** Letters of base 58 as C4 IDs have them (SMPTE ST 2114:2017). */
const letters = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';

/** The C4 ID (SMPTE ST 2114:2017) of a SHA-512 digest: `c4` and 88 letters. @param sha512 in hexadecimal */
export function c4Of(sha512: string): string {
  let rest = BigInt(`0x${sha512}`);
  let id = '';
  for (; rest > 0n; rest /= 58n) id = letters[Number(rest % 58n)]! + id;
  return `c4${id.padStart(88, '1')}`;
}

const escapes: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' };
/** Text within XML or HTML; characters that neither may hold are left out. */
export const asMarkup = (text: string): string =>
  text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '').replace(/[&<>"']/g, (one) => escapes[one]!);

/** What a hash list says of itself. */
export interface HashListHead {
  /** ISO 8601. */
  created: string;
  host: string;
  version: string;
}

/** A file of a hash list. */
export interface HashedFile {
  path: string;
  bytes: number;
  /** ISO 8601. */
  modified: string;
  md5: string;
  c4: string;
}

/** A hash list as the ASC Media Hash List specification 2.0 has it, as a flat one of a single folder. */
export function writeHashList(files: readonly HashedFile[], { created, host, version }: HashListHead): string {
  const hashes = files.map(
    ({ path, bytes, modified, md5, c4 }) => `    <hash>
      <path size="${bytes}" lastmodificationdate="${asMarkup(modified)}">${asMarkup(path)}</path>
      <c4 action="original" hashdate="${asMarkup(created)}">${c4}</c4>
      <md5 action="original" hashdate="${asMarkup(created)}">${md5}</md5>
    </hash>
`,
  );
  return `<?xml version="1.0" encoding="UTF-8"?>
<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">
  <creatorinfo>
    <creationdate>${asMarkup(created)}</creationdate>
    <hostname>${asMarkup(host)}</hostname>
    <tool version="${asMarkup(version)}">Shale</tool>
  </creatorinfo>
  <processinfo>
    <process>in-place</process>
  </processinfo>
  <hashes>
${hashes.join('')}  </hashes>
</hashlist>
`;
}

/** Every written file and what it was made of, as a table: one line a file, its sources joined by spaces. */
export const writeFileTable = (files: readonly Written[]): string =>
  `${Papa.unparse(
    {
      fields: [
        'frame',
        'source frame',
        'name',
        'bytes',
        'sha256',
        'read back',
        'most off',
        'psnr',
        'ssim',
        'sources',
        'sources checksums',
      ],
      data: files.map(({ frame, sourceFrame, name, bytes, sha256, check, most, similarity, sources }) => [
        frame,
        sourceFrame,
        name,
        bytes,
        sha256,
        check,
        most,
        similarity?.psnr?.toFixed(2) ?? '',
        similarity?.ssim.toFixed(5) ?? '',
        sources.map(({ file }) => file).join(' '),
        sources.map((one) => one.sum).join(' '),
      ]),
    },
    { newline: '\n', escapeFormulae: true },
  )}\n`;

/** The name that a receipt's files are handed over under. */
export const handedName = ({ into, video }: Pick<Receipt, 'into' | 'video'>): string =>
  into.folder.split('/').pop() || (video ? into.pattern.replace(/\.[^.]*$/, '') : 'frames');
