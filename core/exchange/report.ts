import { printCoverage } from '../numbering/ranges.ts';
import type { Similarity } from '../pixels/similarity.ts';
import type { Receipt, Written, WrittenVideo } from '../plan/receipt.ts';
import { sumWords } from '../plan/sum.ts';
import { plural } from '../words.ts';
import { asMarkup } from './manifest.ts';

/** What a report for a client holds beside the receipt. */
export interface ReportMore {
  files: readonly Written[];
  /** A contact sheet of the results, as PNG in base64; none where it could not be drawn. */
  sheet?: string;
  /** Of Shale. */
  version: string;
}

/** Rows of a result's facts: what was asked, what came, how it was checked. */
export function reportRows(receipt: Receipt, { version }: Pick<ReportMore, 'version'>): [string, string][] {
  const { source, into, written, planned, failed, leftOut, check, spec, started, finished, workSeconds } = receipt;
  const place = (folder: string, name: string) => (folder === '' ? name : `${folder}/${name}`);
  return [
    ['Asked', receipt.sentence],
    ['From', place(source.folder, source.name)],
    ['Into', place(into.folder, into.pattern)],
    [
      'Files',
      `${written.toLocaleString('en-GB')} of ${planned.toLocaleString('en-GB')} planned, ${receipt.bytes.toLocaleString('en-GB')} bytes`,
    ],
    ['Frames', printCoverage(receipt.coverage).replaceAll(',', ', ') || 'none'],
    ...(receipt.video
      ? [
          [
            'Video',
            `${plural(receipt.video.frames, 'picture')}, ${receipt.video.width} x ${receipt.video.height}, ${receipt.video.format}`,
          ] as [string, string],
        ]
      : []),
    [
      'Checked',
      spec.readBack
        ? `${plural(check.readBack, 'file')} read back from disk${receipt.video ? `, all ${plural(receipt.video.frames, 'picture')} decoded and counted` : ''}: ${
            check.identical === check.readBack
              ? 'every sample matches'
              : `${receipt.video ? `${comparedWords(receipt.video)}, and ` : ''}samples differ by at most ${check.most} steps, as expected of a lossy format`
          }`
        : 'not read back, as asked',
    ],
    ['Failed', failed.length === 0 ? 'none' : plural(failed.length, 'frame')],
    ...(leftOut.length > 0 ? [['Left out because they are missing', printCoverage(leftOut)] as [string, string]] : []),
    ...(receipt.changed.length > 0
      ? [['Used although they had changed', receipt.changed.join(', ')] as [string, string]]
      : []),
    ['Began', started],
    ['Ended', finished],
    ['Work', `${workSeconds.toFixed(1)} s`],
    ['Made by', `Shale ${receipt.shale ?? version}`],
  ];
}

/** A picture that was held against what was meant. */
export interface Compared extends Similarity {
  frame: number;
  /** The file that it is in. */
  name: string;
}

/** The pictures of a result that were held against what was meant, in order: of a lossy format each file's, of a video some or all. */
export const comparedPictures = ({ video, into }: Receipt, files: readonly Written[]): Compared[] =>
  video
    ? video.compared.map((one) => ({ ...one, name: into.pattern }))
    : files.flatMap(({ frame, name, similarity }) => (similarity ? { frame, name, ...similarity } : []));

/** Pictures by how near they come to what was meant, the worst first. */
export const worstFirst = (compared: readonly Compared[]): Compared[] =>
  [...compared].sort((a, b) => (a.psnr ?? Infinity) - (b.psnr ?? Infinity));

/** How many pictures of a video were held against what went in. */
export const comparedWords = ({ compared, frames, psnr }: WrittenVideo): string =>
  // Receipts of earlier versions do not say which.
  compared.length === 0 && psnr !== null
    ? 'some of them were compared with the input'
    : compared.length === frames
      ? 'each was compared with the input'
      : compared.length === 0
        ? 'none was compared with the input'
        : `${compared.length} of them, evenly spread, were compared with the input`;

/** Bars of PSNR by frame, as SVG. */
function chart(compared: readonly Compared[]): string {
  const told = compared.filter(({ psnr }) => psnr !== null);
  if (told.length === 0) return '';
  const [width, height] = [900, 140];
  const most = Math.max(60, ...told.map(({ psnr }) => psnr!));
  const step = width / told.length;
  const bars = told.map(({ frame, psnr, ssim }, at) => {
    const tall = (psnr! / most) * height;
    return `<rect x="${(at * step).toFixed(2)}" y="${(height - tall).toFixed(2)}" width="${Math.max(0.5, step * 0.9).toFixed(2)}" height="${tall.toFixed(2)}"><title>${frame}: ${psnr!.toFixed(2)} dB, SSIM ${ssim.toFixed(5)}</title></rect>`;
  });
  return `<svg viewBox="0 0 ${width} ${height}" role="img" aria-label="PSNR by frame">${bars.join('')}</svg>`;
}

const cells = (tag: 'td' | 'th', texts: readonly (string | number)[]): string =>
  `<tr>${texts.map((text) => `<${tag}>${asMarkup(String(text))}</${tag}>`).join('')}</tr>`;

const table = (head: readonly string[], rows: readonly (readonly (string | number)[])[]): string =>
  `<table><thead>${cells('th', head)}</thead><tbody>${rows.map((row) => cells('td', row)).join('')}</tbody></table>`;

const style = `body{font:15px/1.5 system-ui,sans-serif;color:#191b1a;background:#fff;max-width:1000px;margin:2.5rem auto;padding:0 1.5rem}
h1{font-size:1.7rem}h2{font-size:1.15rem;margin-top:2rem}dl{display:grid;grid-template-columns:max-content 1fr;gap:.25rem 1.5rem}
dt{color:#5c605c}dd{margin:0}table{border-collapse:collapse;font-size:13px;width:100%}th,td{text-align:left;padding:.2rem .8rem .2rem 0;border-bottom:1px solid #ddd;vertical-align:top;overflow-wrap:anywhere}
img{max-width:100%;border:1px solid #ddd}svg{width:100%;height:140px;fill:#2c6e63}@media print{details{display:block}body{margin:0}}`;

/** A report for a client: one HTML file that needs no other. */
export function writeReport(receipt: Receipt, { files, sheet, version }: ReportMore): string {
  const title = `${receipt.into.folder || receipt.into.pattern}: ${plural(receipt.written, 'file')}`;
  const compared = comparedPictures(receipt, files);
  const worst = worstFirst(compared).slice(0, 20);
  const facts = reportRows(receipt, { version })
    .map(([label, text]) => `<dt>${asMarkup(label)}</dt><dd>${asMarkup(text)}</dd>`)
    .join('');
  const list = (head: string, texts: string[]) =>
    texts.length === 0 ? '' : `<h2>${head}</h2><ul>${texts.map((text) => `<li>${asMarkup(text)}</li>`).join('')}</ul>`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${asMarkup(title)}</title><style>${style}</style></head>
<body><h1>${asMarkup(title)}</h1>
<dl>${facts}</dl>
${sheet ? `<h2>Pictures</h2><img alt="Contact sheet" src="data:image/png;base64,${sheet}">` : ''}
${list(
  'What is different',
  receipt.losses.map(({ sentence, amount }) => `${sentence}: ${amount}`),
)}
${list(
  'Failed',
  receipt.failed.map(({ name, fact }) => `${name}: ${fact}`),
)}
${list(
  'Findings set aside before the run',
  receipt.setAside.map(({ sentence, reason }) => `${sentence} “${reason}”`),
)}
${
  worst.length === 0
    ? ''
    : `<h2>Compared with the input</h2>${chart(compared)}${table(
        ['Frame', 'File', 'PSNR, dB', 'SSIM'],
        worst.map(({ frame, name, psnr, ssim }) => [
          frame,
          name,
          psnr?.toFixed(2) ?? 'nothing differs',
          ssim.toFixed(5),
        ]),
      )}<p>The worst of ${plural(compared.length, 'picture')} first.</p>`
}
${
  receipt.sources.length === 0
    ? ''
    : `<h2>Made from</h2>${table(
        ['File', 'Bytes', 'Checksum'],
        receipt.sources.map(({ file, bytes, sum }) => [file, bytes, sumWords(sum)]),
      )}`
}
<h2>Files</h2><details><summary>${plural(files.length, 'file')} with their checksums</summary>${table(
    ['File', 'Bytes', 'SHA-256', 'Made from', 'Checksum of the source'],
    files.map(({ name, bytes, sha256, sources }) => [
      name,
      bytes,
      sha256,
      sources.map(({ file }) => file).join(' '),
      sources.map((one) => sumWords(one.sum)).join(' '),
    ]),
  )}</details>
</body></html>
`;
}
