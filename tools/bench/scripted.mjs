// What a technician would script over the quickest general imaging library here: two pictures at a time, nothing checked.
// node scripted.mjs FROM TO [WIDTH [DEPTH]]
import { mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';

const [from, to, width, depth] = process.argv.slice(2);
mkdirSync(to, { recursive: true });
const names = readdirSync(from).filter((name) => name.endsWith('.png'));
const lane = async () => {
  for (let name = names.shift(); name; name = names.shift()) {
    const picture = sharp(join(from, name)).toColourspace(depth === '16' ? 'rgb16' : 'srgb');
    await (width ? picture.resize(Number(width)) : picture).png().toFile(join(to, name));
  }
};
await Promise.all([lane(), lane()]);
