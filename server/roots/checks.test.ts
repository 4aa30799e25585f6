import { readFile, utimes, writeFile } from 'node:fs/promises';
import { routes, type FrameCheck } from '@shale/contract';
import { Ground, until } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';

let ground: Ground;
let served: Served;
beforeAll(async () => {
  ground = await Ground.make();
  await ground.put('shots', 'yard', 'pan', [1, 2, 3, 4, 5, 6]);
  const path = ground.in('shots', 'yard', 'pan.0004.png');
  const bytes = await readFile(path);
  // Within the data of the picture: the file is small.
  bytes[bytes.indexOf('IDAT') + 8]! ^= 0xff;
  await writeFile(path, bytes);
  const older = new Date(Date.now() - 3_600_000);
  await utimes(path, older, older);
  await ground.roots.scan('shots');
  served = await Served.on(ground);
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

const panOf = () => ground.source('shots', 'yard', 'pan.####.png');
const ended = async (source: string) =>
  until(async () => (await served.ask(routes.getCheck, { params: { source } })) === null, 'the end of the check');

test('a check of every frame makes damage a finding; two that ask for it share one', async () => {
  const { id } = await panOf();
  const params = { source: id };
  const [one, two] = await Promise.all([
    served.ask(routes.startChecks, { body: { sources: [id] } }),
    served.ask(routes.startChecks, { body: { sources: [id] } }),
  ]);
  expect([one, two]).toEqual([{ started: 1 }, { started: 1 }]);
  await ended(id);
  const found = await served.ask(routes.getSource, { params });
  expect(found.checked).toBe(6);
  expect(found.findings.find(({ code }) => code === 'damaged-file')).toMatchObject({
    severity: 'fault',
    frames: [{ first: 4, last: 4, step: 1 }],
  });
  // Nothing is left to do, so that all is decoded again.
  await served.ask(routes.startChecks, { body: { sources: [id] } });
  await ended(id);
  expect((await served.ask(routes.getSource, { params })).checked).toBe(6);
});

test('a check that is stopped ends, and what nobody checks has no check to stop', async () => {
  const { id } = await panOf();
  const params = { source: id };
  expect(await served.ask(routes.stopCheck, { params })).toBeNull();
  await served.ask(routes.startChecks, { body: { sources: [id] } });
  const stopped: FrameCheck | null = await served.ask(routes.stopCheck, { params });
  expect(stopped === null || stopped.source === id).toBe(true);
  await ended(id);
});
