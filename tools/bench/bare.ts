import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { makeConverter, type Image, type Plan } from '@shale/core';
import { spansPerProcess } from '@shale/engine';
import { exrAddon, readStill, writeStill } from '@shale/media';

// The bare loop of one process: the same decoder, encoder and reading back as a conversion, and nothing else. What it
// encodes was worked out before the clock runs.
interface Share {
  plan: Plan;
  files: string[];
  folder: string;
}

exrAddon.setThreads(0);
let work: (() => Promise<void>) | undefined;

async function prepare({ plan, files, folder }: Share): Promise<void> {
  const settings = { ...plan.spec.write, primaries: plan.recipe!.to.primaries };
  const converters = new Map<string, ReturnType<typeof makeConverter>>();
  const images: Image[] = [];
  for (const file of files) {
    const source = await readStill(file);
    if (!converters.has(source.sample)) converters.set(source.sample, makeConverter(plan.recipe!, source.sample));
    images.push(converters.get(source.sample)!(source).image);
  }
  work = async () => {
    const lane = pLimit(spansPerProcess);
    await Promise.all(
      files.map((file, at) =>
        lane(async () => {
          const to = join(folder, `${process.pid}-${at}.part`);
          await readStill(file);
          await writeStill(to, plan.spec.write.format, images[at]!, settings);
          await readStill(to);
          await rm(to);
        }),
      ),
    );
  };
}

process.on('message', (message: { prepare?: Share; go?: true }) => {
  const doing = message.prepare ? prepare(message.prepare) : work!();
  void doing.then(() => process.send!('done'));
});
process.on('disconnect', () => process.exit(0));
