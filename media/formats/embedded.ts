import { readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { LRUCache } from 'lru-cache';
import { parseRate, type Facts, type Image, type Rate } from '@shale/core';
import { isLottie, isSheet } from '../animationJson.ts';
import { fileIdentity } from '../fileIdentity.ts';
import { nameOfFile, placeOfFile } from '../heldFiles.ts';
import { LottieReader } from '../moving/lottie.ts';
import type { MadeReader } from '../moving/madeReader.ts';
import { parseSheet, SheetReader } from '../moving/sheet.ts';
import type { StillFormat } from './format.ts';
import type { HeaderFile } from './headerFile.ts';

interface Opened {
  reader: MadeReader;
  width: number;
  height: number;
  rate: Rate;
  more: [string, string][];
}

/** Animations that were opened last: each of their pictures is asked for by itself. */
const opened = new LRUCache<string, Promise<Opened>>({ max: 4, ttl: 60_000 });

/** Opens an animation, or takes it as it was opened while its file is the same. */
async function openOnce(path: string, open: (path: string) => Promise<Opened>): Promise<Opened> {
  const key = await fileIdentity(path);
  const known = opened.get(key) ?? open(path);
  opened.set(key, known);
  known.catch(() => opened.delete(key));
  return known;
}

async function openLottie(path: string): Promise<Opened> {
  const reader = await LottieReader.open(path);
  const { width, height, rate } = reader;
  return { reader, width, height, rate, more: [] };
}

/** A sheet's picture lies beside its JSON, by the same name. */
async function openSheet(path: string): Promise<Opened> {
  const text = await readFile(path, 'utf8');
  const { picture, frame, rate, width, height } = parseSheet(text);
  const beside = nameOfFile(path).replace(/\.json$/i, `.${picture}`);
  const reader = await SheetReader.open(join(dirname(placeOfFile(path)), beside), text);
  return { reader, ...frame, rate: parseRate(rate), more: [['Sheet', `${beside}, ${width} x ${height}`]] };
}

/** An animation that a JSON tells of, as a source of several pictures. */
const format = (
  id: 'lottie' | 'sheet',
  open: (path: string) => Promise<Opened>,
  recognises: (head: string) => boolean,
) =>
  ({
    recognises: (head) => recognises(head.toString('latin1')),
    async header({ path, size }: HeaderFile) {
      const { reader, width, height, rate, more } = await openOnce(path, open);
      const { channels } = await reader.picture(0);
      const hasAlpha = channels === 4;
      return {
        facts: {
          width,
          height,
          format: id,
          sample: 'u8',
          channels: hasAlpha ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
          hasAlpha,
          ...(reader.count > 1 ? { pictures: reader.count } : {}),
          rate,
          more,
        },
        dataAt: size,
      };
    },
    read: async (path: string, _facts: Facts, picture: number): Promise<Image> =>
      (await openOnce(path, open)).reader.picture(picture),
  }) satisfies StillFormat;

export const lottie = format('lottie', openLottie, isLottie);
export const sheet = format('sheet', openSheet, isSheet);
