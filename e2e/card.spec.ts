import { fileURLToPath } from 'node:url';
import { expect, test } from '@playwright/test';
import { build, type Rolldown } from 'vite';

/** What shows views on the graphics card, and core, as one script for a page. */
async function bundled(): Promise<string> {
  const made = await build({
    configFile: false,
    logLevel: 'warn',
    build: {
      write: false,
      lib: {
        entry: fileURLToPath(new URL('../web/testing/cardPage.ts', import.meta.url)),
        formats: ['iife'],
        name: 'held',
      },
    },
  });
  const [library] = made as Rolldown.RolldownOutput[];
  return library!.output[0].code;
}

test('the graphics card shows every half float as core does, within a code; a stand-in for one is left alone', async ({
  page,
}) => {
  await page.addScriptTag({ content: await bundled() });
  // As web/testing/cardPage.ts tells it.
  const held = await page.evaluate<{ most: number; drawn: number }>('held.holdCard()');
  console.log(`  card: ${JSON.stringify(held)}`);
  // Headless Chromium draws by the processor, which is slower than core's own loops.
  expect(held).toMatchObject({ any: true, real: false, pictures: 108 });
  expect(held.most).toBeLessThanOrEqual(1);
  expect(held.drawn).toBeLessThanOrEqual(2);
});
