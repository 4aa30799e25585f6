import { c4Of, readSums, writeFileTable, writeHashList, writeSums } from './manifest.ts';
import { noCounts } from '../pixels/recipe.ts';

const sum = 'a'.repeat(64);

test('sums are written as sha256sum does, odd names escaped, and read again', () => {
  const files = ['pan.0001.png', 'back\\slash.png', 'line\nbreak.png', ' two  spaces.png'].map((name) => ({
    name,
    sha256: sum,
  }));
  const text = writeSums(files);
  expect(text.split('\n')[0]).toBe(`${sum}  pan.0001.png`);
  expect(text.split('\n')[1]).toBe(`\\${sum}  back\\\\slash.png`);
  expect(readSums(text)).toEqual({
    files: files.map(({ name }) => ({ path: name, digests: { sha256: sum } })),
    odd: 0,
  });
  expect(readSums(`# no sum\n${'b'.repeat(32)} *bin.dat\r\n${'C'.repeat(40)}  x\n`)).toEqual({
    files: [
      { path: 'bin.dat', digests: { md5: 'b'.repeat(32) } },
      { path: 'x', digests: { sha1: 'c'.repeat(40) } },
    ],
    odd: 1,
  });
});

test('the C4 ID of nothing is the one that the standard gives', () => {
  // SHA-512 of no byte (FIPS 180-4), and its ID in SMPTE ST 2114.
  const empty =
    'cf83e1357eefb8bdf1542850d66d8007d620e4050b5715dc83f4a921d36ce9ce47d0d13c5d85f2b0ff8318d2877eec2f63b931bd47417a81a538327af927da3e';
  expect(c4Of(empty)).toBe(
    'c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT',
  );
  expect(c4Of('0'.repeat(128))).toBe(`c4${'1'.repeat(88)}`);
});

test('a hash list escapes what XML would take for its own', () => {
  const file = { path: 'a<b>&"c".png', bytes: 3, modified: '2026-05-01T10:00:00.000Z', md5: 'm', c4: 'c' };
  const text = writeHashList([file], { created: '2026-05-02T10:00:00.000Z', host: 'yard', version: '1' });
  expect(text).toContain(
    '<path size="3" lastmodificationdate="2026-05-01T10:00:00.000Z">a&lt;b&gt;&amp;&quot;c&quot;.png</path>',
  );
  expect(text).toContain('<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">');
});

test('the table of files quotes what needs it, and begins no cell with what a spreadsheet works out', () => {
  const text = writeFileTable([
    {
      index: 0,
      frame: 1,
      sourceFrame: 7,
      name: '=SUM(1,2).png',
      bytes: 5,
      sha256: sum,
      check: 'differs',
      most: 3,
      counts: noCounts(),
      similarity: { psnr: 41.234, ssim: 0.98765 },
      sources: [{ file: 'a b,c.exr', bytes: 9, sum: 'xxh128:dd' }],
    },
  ]);
  expect(text.split('\n')[1]).toBe(`1,7,"'=SUM(1,2).png",5,${sum},differs,3,41.23,0.98765,"a b,c.exr",xxh128:dd`);
});
