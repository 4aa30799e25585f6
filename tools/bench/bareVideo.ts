import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { makeConverter, type Plan } from '@shale/core';
import { ClipReader, VideoWriter, readStill, writeStill, type VideoSettings } from '@shale/media';

// Bare loops over the libraries, of one process: the same decoder, filter, encoder and settings as a job, and nothing else.
type Ask =
  | { what: 'frames'; clip: string; from: number; to: number; plan: Plan; folder: string }
  | { what: 'video'; files: string[]; plan: Plan; settings: VideoSettings; path: string };

async function frames({ clip, from, to, plan, folder }: Extract<Ask, { what: 'frames' }>): Promise<void> {
  const reader = await ClipReader.open(clip);
  const settings = { ...plan.spec.write, primaries: 'bt709' as const };
  const work = async (at: number) => {
    const image = await reader.picture(at);
    const path = join(folder, `${at}.part`);
    await writeStill(path, 'png', image, settings);
    await readStill(path);
    await rm(path);
  };
  // Two at once, as a job's process has them: one is decoded while another is encoded.
  let next = from;
  const lane = async () => {
    while (next < to) await work(next++);
  };
  await Promise.all([lane(), lane()]);
  await reader.close();
}

async function video({ files, plan, settings, path }: Extract<Ask, { what: 'video' }>): Promise<void> {
  const writer = await VideoWriter.open(path, settings);
  const converter = makeConverter(plan.recipe!, 'u8');
  for (const file of files) await writer.add(converter(await readStill(file)).image);
  await writer.finish();
  await writer.close();
  const reader = await ClipReader.open(path, { threads: 2 });
  for (let at = 0; at < reader.count; at += 1) await reader.frameAt(at, async () => undefined);
  await reader.close();
  await rm(path);
}

process.on('message', (ask: Ask) => {
  const doing = ask.what === 'frames' ? frames(ask) : video(ask);
  void doing.then(() => process.send!('done'));
});
process.on('disconnect', () => process.exit(0));
