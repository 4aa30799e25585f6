import { readFile, writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import { encodeWithSharp, readWithSharp } from './sharp.ts';
import { refuseAbsurdSize, type StillFormat } from './format.ts';

/** JPEG, 8 bits, through libvips; written without chroma subsampling. */
export const jpeg: StillFormat = {
  id: 'jpeg',
  recognises: (head) => head[0] === 0xff && head[1] === 0xd8 && head[2] === 0xff,
  async probe(path) {
    const { width = 0, height = 0, channels, chromaSubsampling, icc } = await sharp(path).metadata();
    refuseAbsurdSize(width, height);
    return {
      width,
      height,
      format: 'jpeg',
      sample: 'u8',
      channels: channels === 1 ? ['Y'] : ['R', 'G', 'B'],
      hasAlpha: false,
      transfer: icc && !icc.includes(Buffer.from('sRGB')) ? 'its own profile' : undefined,
      more: chromaSubsampling ? [['Chroma', chromaSubsampling]] : [],
    };
  },
  read: async (path) => readWithSharp(await readFile(path), 'u8'),
  async write(path, image, { quality }) {
    const coded = await encodeWithSharp(image, (pipeline) => pipeline.jpeg({ quality, chromaSubsampling: '4:4:4' }));
    await writeFile(path, coded, { flag: 'wx' });
  },
};
