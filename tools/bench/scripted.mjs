// What a technician would script over the quickest general imaging library here: two pictures at a time, nothing checked.
// node scripted.mjs FROM TO [--to png|jpeg|tiff] [--width N] [--depth 16] [--crop LEFT,TOP,WIDTH,HEIGHT] [--over R,G,B]
import { mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import sharp from 'sharp';

const text = { type: 'string' };
const { positionals, values } = parseArgs({
  allowPositionals: true,
  options: { to: { ...text, default: 'png' }, width: text, depth: text, crop: text, over: text },
});
const [from, to] = positionals;
mkdirSync(to, { recursive: true });
const settings = {
  png: {},
  jpeg: { quality: 92, chromaSubsampling: '4:4:4' },
  tiff: { compression: 'lzw', predictor: 'horizontal' },
}[values.to];
const names = readdirSync(from);
const lane = async () => {
  for (let name = names.shift(); name; name = names.shift()) {
    let picture = sharp(join(from, name)).toColourspace(values.depth === '16' ? 'rgb16' : 'srgb');
    if (values.crop) {
      const [left, top, width, height] = values.crop.split(',').map(Number);
      picture = picture.extract({ left, top, width, height });
    }
    if (values.width) picture = picture.resize(Number(values.width));
    if (values.over) {
      const [r, g, b] = values.over.split(',').map(Number);
      picture = picture.flatten({ background: { r, g, b } });
    }
    await picture.toFormat(values.to, settings).toFile(join(to, name.replace(/\w+$/, values.to)));
  }
};
await Promise.all([lane(), lane()]);
