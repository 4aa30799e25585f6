import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Codec } from 'node-av';
import { AV_CODEC_ID_DPX, AV_PIX_FMT_GBRP10BE } from 'node-av/constants';
import { encodePacket } from '@shale/media';
import { srgbToLinear } from '@shale/core';
import { defs, tram } from '../art.ts';
import { randomFrom } from '../random.ts';
import { drawSvg, pixelText } from '../raster.ts';

const width = 720;
const height = 540;
const sheetWidth = 1000;
const sheetHeight = 760;

/** An old printed timetable on a table, larger than the frame that moves over it. */
function sheet(): string {
  const random = randomFrom(77);
  const rows = Array.from({ length: 12 }, (_, row) => {
    const times = Array.from({ length: 6 }, (_, column) => {
      const clock = `${5 + row}:${Math.floor(random() * 60)
        .toString()
        .padStart(2, '0')}`;
      return pixelText(clock, 400 + column * 88, 262 + row * 36, 3, '#3b3126');
    });
    const bar = `<rect x="180" y="${262 + row * 36}" width="${90 + random() * 90}" height="9" fill="#6d5b44"/>`;
    return bar + times.join('') + `<path d="M160 ${284 + row * 36}H920" stroke="#b9a583" stroke-width="1.5"/>`;
  });
  return `${defs}<rect width="1000" height="760" fill="#5b3f2c"/><path d="M0 180H1000M0 430H1000M0 660H1000" stroke="#4a3222" stroke-width="8"/>
    <g transform="rotate(-1.5 500 380)"><rect x="128" y="46" width="840" height="690" fill="#2a1b12" opacity=".5"/><rect x="120" y="36" width="840" height="690" fill="#ead9b5"/>
    <rect x="140" y="56" width="800" height="650" fill="none" stroke="#8f3421" stroke-width="5"/>${pixelText('TIMETABLE', 180, 92, 12, '#8f3421')}
    ${pixelText('LINE 4 DEPOT - HARBOUR', 182, 178, 5, '#3b3126')}<g transform="translate(700 84) scale(.7)">${tram('#b5472e', '#8f3421', false)}</g>${rows.join('')}</g>`;
}

/**
 * Printing density of linear light as 10-bit code: 90 % white at 685, 0.002 density a code, negative gamma 0.6
 * (the film scan curve that SMPTE ST 268-1 calls printing density).
 */
const filmCode = (linear: number): number =>
  Math.round(Math.min(1023, Math.max(95, 685 + Math.log10(Math.max(1e-4, linear)) / (0.002 / 0.6))));

/** Bytes of the generic headers, which the encoder writes, and of all headers (SMPTE ST 268-1:2014, tables 1 to 5). */
const generic = 1664;
const whole = 2048;

/** The file with the film and television headers that the encoder leaves out: transfer, rate, length, timecode. */
function withFilmHeader(coded: Buffer, frame: number, frames: number): Buffer {
  const industry = Buffer.alloc(whole - generic, 0xff);
  const scan = Buffer.concat([coded.subarray(0, generic), industry, coded.subarray(generic)]);
  scan.writeUInt32BE(whole, 4);
  scan.writeUInt32BE(scan.length, 16);
  scan.writeUInt32BE(generic, 24);
  scan.writeUInt32BE(whole - generic, 28);
  scan.writeUInt8(3, 801);
  scan.writeUInt8(3, 802);
  scan.writeUInt32BE(whole, 808);
  scan.writeUInt32BE(frame, 1712);
  scan.writeUInt32BE(frames, 1716);
  scan.writeFloatBE(24, 1724);
  // 01:00:00:00 and on, two digits a byte: 86,400 frames are an hour at 24.
  scan.writeUInt32BE(0x01_00_00_00 + (Math.floor(frame / 10) << 4) + (frame % 10), 1920);
  return scan;
}

/** timetable_scan: 10-bit DPX, film log, 24 fps in the header, 86400 to 86423. */
export async function drawTimetableScan(folder: string): Promise<void> {
  const { data } = await drawSvg(sheetWidth, sheetHeight, sheet());
  const codes = Uint16Array.from({ length: 256 }, (_, code) => filmCode(srgbToLinear(code / 255) * 0.9));
  const random = randomFrom(16);
  const grain = Int8Array.from({ length: 131_071 }, () => Math.round((random() + random() + random() - 1.5) * 14));
  const encoder = Codec.findEncoder(AV_CODEC_ID_DPX)!;
  for (let frame = 0; frame < 24; frame += 1) {
    const bytes = Buffer.alloc(width * height * 6);
    const left = Math.round(40 + frame * 8);
    const down = Math.round(30 + frame * 6);
    let speck = (frame * 4231) % grain.length;
    for (const [plane, channel] of [1, 2, 0].entries()) {
      for (let y = 0; y < height; y += 1) {
        let from = ((y + down) * sheetWidth + left) * 4 + channel;
        let to = (plane * width * height + y * width) * 2;
        for (let x = 0; x < width; x += 1, from += 4, to += 2) {
          speck = speck + 1 === grain.length ? 0 : speck + 1;
          bytes.writeUInt16BE(Math.min(1023, Math.max(0, codes[data[from]!]! + grain[speck]!)), to);
        }
      }
    }
    const coded = await encodePacket(encoder, { width, height, format: AV_PIX_FMT_GBRP10BE, bytes });
    const scan = withFilmHeader(coded, frame, 24);
    await writeFile(join(folder, `timetable_scan.${86_400 + frame}.dpx`), scan);
  }
}
