import { mkdtemp, open, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import { randomFillSync } from 'node:crypto';
import { digestsOf, sumOfFile } from './digests.ts';

test('checksums are those of other tools, for no byte, one, and more than a piece is long', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'shale-sums-'));
  try {
    for (const length of [0, 1, 240, 241, 262_144, 262_145, 3_000_001]) {
      const path = join(folder, 'file');
      await writeFile(path, randomFillSync(Buffer.alloc(length)));
      const by = (tool: string) => execFileSync(tool, [path], { encoding: 'utf8' }).split(' ')[0]!;
      const file = await open(path, 'r');
      try {
        expect(await sumOfFile(file.fd)).toBe(`xxh128:${by('xxh128sum')}`);
        expect(await sumOfFile(file.fd, 'sha256')).toBe(`sha256:${by('sha256sum')}`);
        expect(await digestsOf(file.fd, ['md5', 'sha256'])).toEqual({ md5: by('md5sum'), sha256: by('sha256sum') });
      } finally {
        await file.close();
      }
    }
    await expect(sumOfFile(1_000_000)).rejects.toThrow('Bad file descriptor');
  } finally {
    await rm(folder, { recursive: true });
  }
});
