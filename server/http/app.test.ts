import { createHash } from 'node:crypto';
import { readFile, rm, stat, writeFile } from 'node:fs/promises';
import { request } from 'node:http';
import { eventSchema, problemDetailsSchema, problemsOf, routes, type Route, type ServerEvent } from '@shale/contract';
import { previewType } from '@shale/core';
import { readStill } from '@shale/media';
import { Ground, pictureOf, until } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';

let ground: Ground;
let served: Served;
let pan: string;
const spec = (folder: string, more: object = {}) => ({
  version: 1,
  write: { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' },
  into: { root: 'out', folder },
  ...more,
});
beforeAll(async () => {
  ground = await Ground.make();
  await ground.put('shots', 'yard', 'pan', [1001, 1002, 1003, 1005]);
  await ground.put('shots', 'depot/night', 'tilt', [1, 2]);
  await ground.roots.scan('shots');
  await ground.roots.scan('out');
  served = await Served.on(ground);
  pan = (await ground.source('shots', 'yard', 'pan.####.png')).id;
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

/** A refusal, held to the shape that every one of them has. */
async function refused(answer: Promise<Response>) {
  const given = await answer;
  expect(given.headers.get('content-type')).toContain('application/problem+json');
  const problem = problemDetailsSchema.parse(await given.json());
  expect(problem.status).toBe(given.status);
  return problem;
}

describe('every operation', () => {
  /** Queries without which an operation is not asked at all. */
  const needed = new Map<Route, object>([
    [routes.piece, { left: 0, top: 0, width: 1, height: 1 }],
    [routes.received, { receiver: 'nobody' }],
    [routes.soundWave, { from: 0, to: 100, columns: 10 }],
    [routes.soundSamples, { from: 0, count: 10 }],
  ]);
  const unknown = { frame: '7', spec: '77', stack: '77', try: '7' } as Record<string, string>;
  const asked = Object.entries(routes as unknown as Record<string, Route>).filter(
    ([, { path, body }]) => path.includes(':') && !body,
  );

  test.each(asked)('%s, asked for what is not there, says so with a problem of its list', async (_name, route) => {
    const params = Object.fromEntries(
      [...route.path.matchAll(/:(\w+)/g)].map(([, name]) => [name, unknown[name!] ?? 'nothing']),
    );
    const query = needed.get(route) ?? {};
    const answer = await served.fetch(route, { params, query });
    // What may be removed twice is not an error.
    if (route.method === 'delete' && answer.status === 200) {
      expect(await answer.json()).toEqual({ removed: false });
      return;
    }
    const { code, status } = await refused(Promise.resolve(answer));
    expect(status).toBe(404);
    expect(problemsOf(route)).toContain(code);
  });

  const withBody = Object.entries(routes as unknown as Record<string, Route>).filter(([, { body }]) => body);
  test.each(withBody)('%s refuses a body that is no object, and writes nothing', async (_name, route) => {
    const params = Object.fromEntries(
      [...route.path.matchAll(/:(\w+)/g)].map(([, name]) => [
        name,
        name === 'source' ? pan : (unknown[name!] ?? 'shots'),
      ]),
    );
    for (const body of ['text', 12, [1]]) {
      const { status, wayOut } = await refused(served.fetch(route, { params, body }));
      expect([400, 404]).toContain(status);
      expect(wayOut).not.toBe('');
    }
  });
});

describe('who may ask', () => {
  const status = (headers: Record<string, string>) =>
    new Promise<number>((done, fail) => {
      request(`${served.url}/api/roots`, { headers }, (answer) => {
        answer.resume();
        done(answer.statusCode!);
      })
        .on('error', fail)
        .end();
    });

  test('a page of this address, and a program; no page of another site, no name that leads here by a trick', async () => {
    const host = new URL(served.url).host;
    expect(await status({})).toBe(200);
    expect(await status({ origin: `http://${host}` })).toBe(200);
    expect(await status({ origin: 'http://elsewhere.example' })).toBe(403);
    expect(await status({ origin: 'null' })).toBe(403);
    expect(await status({ host: 'trick.example' })).toBe(403);
  });

  test('the page is given at every path of its own with a nonce that is new each time; nothing else is', async () => {
    const page = async (path: string) => (await fetch(served.url + path)).text();
    const [one, two] = [await page('/'), await page('/convert/anything')];
    expect(one).toMatch(/nonce="[\w+/=]{20,}"/);
    expect(one).not.toBe(two);
    expect(await refused(fetch(`${served.url}/api/nothing`))).toMatchObject({ code: 'no-such-route', status: 404 });
    expect(await page('/assets/../../package.json')).not.toContain('workspaces');
    expect((await fetch(`${served.url}/api`)).headers.get('content-security-policy')).toContain("default-src 'self'");
  });

  test('broken JSON, and too much of it, is the asker’s mistake', async () => {
    const post = (body: string) =>
      fetch(`${served.url}/api/plans`, { method: 'POST', body, headers: { 'content-type': 'application/json' } });
    expect(await refused(post('{"a":'))).toMatchObject({ code: 'bad-request' });
    expect(await refused(post(JSON.stringify('x'.repeat(5 << 20))))).toMatchObject({ code: 'bad-request' });
  });
});

describe('sources', () => {
  test('are listed, narrowed, counted', async () => {
    const all = await served.ask(routes.listSources, { query: {} });
    expect(all.map(({ name }) => name).sort()).toEqual(['pan.####.png', 'tilt.####.png']);
    const below = await served.ask(routes.listSources, { query: { folder: 'depot' } });
    expect(below.map(({ folder }) => folder)).toEqual(['depot/night']);
    expect(await served.ask(routes.sourceIds, { query: { text: 'PAN' } })).toEqual([pan]);
    const told = await served.ask(routes.sourcesOverview, { query: { code: 'missing-frames' } });
    expect(told).toMatchObject({ total: 1, groups: [{ folder: 'yard', count: 1 }] });
    expect((await served.ask(routes.listFolders, {})).map(({ folder }) => folder).sort()).toEqual(['depot', 'yard']);
    expect(await refused(served.fetch(routes.listSources, { query: { limit: 0 } }))).toMatchObject({
      subject: 'limit',
    });
  });

  test('a rule says which number counts the frames: other sources come of it, and go with it', async () => {
    await ground.put('shots', 'grid', 'cam1', [1, 2, 3]);
    await ground.put('shots', 'grid', 'cam2', [1, 2, 3]);
    await ground.roots.scan('shots');
    const names = async () =>
      (await served.ask(routes.listSources, { query: { root: 'shots', folder: 'grid' } }))
        .map(({ name }) => name)
        .sort();
    const say = (word: object) =>
      served.ask(routes.putRule, { params: { root: 'shots' }, body: { folder: 'grid', word } });
    const both = ['cam1.####.png', 'cam2.####.png'];
    expect(await names()).toEqual(both);
    expect(await say({ frameNumber: 1 })).toEqual([{ folder: 'grid', word: { frameNumber: 1 } }]);
    await until(async () => (await names()).includes('cam#.0001.png'), 'the sources of the rule');
    await ground.roots.rested('shots');
    expect(await names()).toEqual(['cam#.0001.png', 'cam#.0002.png', 'cam#.0003.png']);
    await say({});
    await until(async () => (await names()).includes(both[0]!), 'the sources of before');
    await ground.roots.rested('shots');
    expect(await names()).toEqual(both);
    const refusal = await refused(
      served.fetch(routes.putRule, { params: { root: 'shots' }, body: { folder: 'grid', word: { frameNumber: 99 } } }),
    );
    expect(refusal.code).toBe('bad-request');
  });

  test('a word, a rule and what is set aside come back with the source, and go again', async () => {
    const rate = { num: 24, den: 1 };
    const source = { source: pan };
    const word = await served.ask(routes.declare, { params: source, body: { rate } });
    expect(word.declaration.rate).toMatchObject({ value: rate, grounds: 'word' });
    await served.ask(routes.declareMany, { body: { sources: [pan], clear: ['rate'] } });
    await served.ask(routes.putRule, { params: { root: 'shots' }, body: { folder: 'yard', word: { rate } } });
    expect((await served.ask(routes.getSource, { params: source })).declaration.rate).toMatchObject({ value: rate });
    expect(await served.ask(routes.listRules, { params: { root: 'shots' } })).toHaveLength(1);
    await served.ask(routes.putRule, { params: { root: 'shots' }, body: { folder: 'yard', word: {} } });
    expect(await served.ask(routes.listRules, { params: { root: 'shots' } })).toEqual([]);
    const outside = { folder: '../..', word: { rate } };
    expect(await refused(served.fetch(routes.putRule, { params: { root: 'shots' }, body: outside }))).toMatchObject({
      code: 'outside-root',
    });
    const finding = { ...source, code: 'missing-frames' };
    const aside = await served.ask(routes.setAside, { params: finding, body: { reason: 'never drawn' } });
    expect(aside.findings.find(({ code }) => code === finding.code)).toMatchObject({
      setAside: 'never drawn',
    });
    const up = await served.ask(routes.setAside, { params: finding, body: { reason: null } });
    expect(up.findings.find(({ code }) => code === finding.code)?.setAside).toBeUndefined();
  });

  test('markers are set from a state on, read from a list and written as one', async () => {
    const params = { source: pan };
    const marker = { frame: 1002, length: 1, name: 'bell', note: '', colour: 'ochre' as const };
    const put = (version: number, frame = 1002) =>
      served.fetch(routes.putMarkers, { params, body: { version, markers: [{ ...marker, frame }] } });
    expect((await put(0)).status).toBe(200);
    expect(await refused(put(0, 1003))).toMatchObject({ code: 'markers-changed', status: 409 });
    expect(await refused(put(1, 4000))).toMatchObject({ code: 'marker-outside' });
    const csv = await (await served.fetch(routes.markersFile, { params, query: { kind: 'csv' } })).text();
    const read = await served.ask(routes.readMarkers, {
      params,
      body: { name: 'm.csv', text: csv },
    });
    expect(read.markers).toMatchObject([{ frame: 1002, name: 'bell' }]);
    expect(await refused(served.fetch(routes.markersFile, { params, query: { kind: 'edl' } }))).toMatchObject({
      code: 'rate-not-declared',
    });
    expect(
      await refused(served.fetch(routes.readMarkers, { params, body: { name: 'm.pdf', text: 'x' } })),
    ).toMatchObject({ code: 'list-unknown' });
  });
});

describe('looking', () => {
  const at = (frame: number) => ({ source: pan, frame });

  test('a preview is a picture, a piece the very samples, scopes their numbers', async () => {
    const preview = await served.fetch(routes.preview, { params: at(1002), query: { width: 16, format: 'png' } });
    expect(
      Buffer.from(await preview.arrayBuffer())
        .subarray(1, 4)
        .toString(),
    ).toBe('PNG');
    expect((await served.ask(routes.frameFacts, { params: at(1002) })).facts).toMatchObject({ width: 4, height: 2 });
    const scopes = await served.ask(routes.scopes, { params: at(1001) });
    const samples = pictureOf(1001).data as Uint8Array;
    const reds = [...samples].filter((_, index) => index % 3 === 0);
    expect(scopes.channels[0]).toMatchObject({ name: 'red', least: Math.min(...reds), most: Math.max(...reds) });
    expect(await refused(served.fetch(routes.scopes, { params: at(1001), query: { left: 0 } }))).toMatchObject({
      code: 'bad-request',
    });
  });

  test('a frame that is missing or outside is told from one whose file is gone', async () => {
    expect(await refused(served.fetch(routes.frameFacts, { params: at(1004) }))).toMatchObject({
      code: 'frame-missing',
    });
    expect(await refused(served.fetch(routes.preview, { params: at(9), query: {} }))).toMatchObject({
      code: 'frame-missing',
    });
    const file = ground.in('shots', 'yard', 'pan.1005.png');
    await rm(file);
    expect(await refused(served.fetch(routes.preview, { params: at(1005), query: {} }))).toMatchObject({
      code: 'file-gone',
      status: 410,
    });
    await ground.put('shots', 'yard', 'pan', [1005]);
  });

  test('two frames are compared by their numbers; sizes that differ give none', async () => {
    const same = await served.ask(routes.compare, { query: { a: pan, frameA: 1001, b: pan, frameB: 1001 } });
    expect(same.comparison).toMatchObject({ most: 0 });
    const other = await served.ask(routes.compare, { query: { a: pan, frameA: 1001, b: pan, frameB: 1002 } });
    expect(other.comparison!.most).toBeGreaterThan(0);
  });
});

describe('a conversion', () => {
  test('is planned, measured, run, told as events, kept as a receipt and handed over', async () => {
    const events = await listening();
    // Frames of it were written anew above.
    await ground.roots.scan('shots');
    const body = { source: pan, spec: spec('handed') };
    const plan = await served.ask(routes.makePlan, { body });
    expect(plan).toMatchObject({ frames: 4, problems: [] });
    expect(await served.ask(routes.lookAtTarget, { body })).toEqual({
      taken: 0,
      of: 4,
      problem: null,
      free: null,
      room: expect.any(Number),
    });
    const measured = await served.ask(routes.measure, { body });
    expect(measured).toMatchObject({ problems: [], losses: [{ code: 'clipped', amount: '0' }] });
    const job = await served.ask(routes.startJob, { body });
    await until(async () => (await served.ask(routes.getJob, { params: { job: job.id } })).state === 'done', 'done');
    const receipt = await served.ask(routes.getReceipt, { params: { job: job.id } });
    expect(receipt).toMatchObject({ written: 4, failed: [] });

    const manifest = await (await served.fetch(routes.manifest, { params: { job: job.id } })).text();
    const lines = manifest.trimEnd().split('\n');
    expect(lines).toHaveLength(4);
    for (const line of lines) {
      const [sum, name] = line.split('  ');
      const bytes = await readFile(ground.in('out', 'handed', name!));
      expect(createHash('sha256').update(bytes).digest('hex')).toBe(sum);
    }
    expect([...(await readStill(ground.in('out', 'handed', 'pan.1005.tif'))).data]).toEqual([...pictureOf(1005).data]);
    const archive = Buffer.from(await (await served.fetch(routes.archive, { params: { job: job.id } })).arrayBuffer());
    expect(archive.subarray(0, 2).toString()).toBe('PK');
    for (const name of ['handed/pan.1001.tif', 'handed/manifest.sha256']) expect(archive.includes(name)).toBe(true);
    expect((await served.ask(routes.madeBy, { params: { job: job.id } })).made).toMatchObject({ files: 4 });
    await until(() => events.some((one) => one.type === 'job' && one.job.state === 'done'), 'the end is told');

    // Again: names are in the way, and a folder beside is offered.
    const again = await served.ask(routes.lookAtTarget, { body });
    expect(again).toMatchObject({ taken: 4, free: 'handed_2', problem: { code: 'output-exists' } });
    expect(await refused(served.fetch(routes.startJob, { body }))).toMatchObject({
      code: 'output-exists',
      status: 409,
    });
    await writeFile(ground.in('out', 'handed', 'pan.1001.tif'), 'other');
    expect(await refused(served.fetch(routes.archive, { params: { job: job.id } }))).toMatchObject({
      code: 'source-changed',
    });
  });

  test('into what may not be written, or out of its root, is refused before anything is there', async () => {
    const start = (into: object) =>
      refused(served.fetch(routes.startJob, { body: { source: pan, spec: spec('x', { into }) } }));
    expect(await start({ root: 'more', folder: 'x' })).toMatchObject({ code: 'root-read-only', status: 403 });
    expect(await start({ root: 'nowhere', folder: 'x' })).toMatchObject({ code: 'root-not-found', status: 404 });
    expect((await start({ root: 'out', folder: '../x' })).status).toBeGreaterThanOrEqual(400);
    await expect(stat(ground.in('x'))).rejects.toMatchObject({ code: 'ENOENT' });
    expect(await refused(served.fetch(routes.makePlan, { body: { source: pan, spec: { version: 9 } } }))).toMatchObject(
      {
        status: 400,
      },
    );
  });

  test('a look and a proof are made of one frame, and refused where the plan says why', async () => {
    const body = { source: pan, spec: spec('looked'), frame: 1003, width: 16 };
    const look = await served.fetch(routes.lookAtPlan, { body });
    expect(look.headers.get('content-type')).toBe('image/jpeg');
    expect(previewType(new Uint8Array(await look.arrayBuffer()))).toBe('image/jpeg');
    const proof = await served.ask(routes.prove, { body: { source: pan, spec: spec('looked'), frames: [1003] } });
    expect(proof).toMatchObject({ problems: [], frames: [{ sourceFrame: 1003 }] });
    expect((await served.ask(routes.getProofExactness, { params: { proof: proof.id, frame: 1003 } })).most).toBe(0);
    const crop = { left: 0, top: 0, width: 40, height: 40 };
    const outside = spec('looked', { picture: { crop } });
    const refusal = await refused(served.fetch(routes.lookAtPlan, { body: { ...body, spec: outside } }));
    expect(refusal.code).toMatch(/crop-outside|bad-spec/);
  });
});

describe('what is kept under a name', () => {
  test('specs get versions, come from files with free names, and go', async () => {
    const kept = spec('kept');
    const one = await served.ask(routes.saveSpec, { body: { name: 'For print', spec: kept } });
    const two = await served.ask(routes.saveSpec, { body: { name: 'For print', spec: kept } });
    expect([one.version, two.version]).toEqual([1, 2]);
    const listed = (await served.ask(routes.listSpecs, {})).map(({ name, version }) => [name, version]);
    expect(listed).toEqual([['For print', 2]]);
    expect(await refused(served.fetch(routes.addSpecs, { body: { anything: 1 } }))).toMatchObject({ status: 400 });
    expect(await served.ask(routes.deleteSpec, { params: { spec: two.id } })).toEqual({ removed: true });
    expect(await served.ask(routes.listSpecs, {})).toEqual([]);
  });

  test('a shipped receiver is changed and brought back; one of a file gets a free name', async () => {
    const [first] = await served.ask(routes.listReceivers, {});
    const changed = { ...first!.receiver, name: 'Changed here' };
    const put = await served.ask(routes.putReceiver, { params: { receiver: first!.id }, body: { receiver: changed } });
    expect(put).toMatchObject({ shipped: true, changed: true, receiver: { name: 'Changed here' } });
    await served.ask(routes.deleteReceiver, { params: { receiver: first!.id } });
    expect((await served.ask(routes.listReceivers, {}))[0]).toMatchObject({
      changed: false,
      receiver: first!.receiver,
    });
    const bad = { params: { receiver: first!.id }, body: { receiver: { name: '' } } };
    expect(await refused(served.fetch(routes.putReceiver, bad))).toMatchObject({ code: 'bad-receiver' });
    const loaded = await served.ask(routes.received, { params: { source: pan }, query: { receiver: first!.id } });
    expect(loaded.plays.length + loaded.leftOut.length).toBeGreaterThan(0);
  });

  test('names are planned, read by the row, given and brought back', async () => {
    const sources = await served.ask(routes.sourceIds, { query: { folder: 'depot/night' } });
    const naming = { version: 1, rules: [{ kind: 'template', template: 'bell.{frame:4}.{ext}' }] };
    const plan = await served.ask(routes.planRename, { body: { sources, spec: naming } });
    expect(plan.counts).toMatchObject({ files: 2, changed: 2, faults: 0 });
    const { rows, total } = await served.ask(routes.renameRows, {
      body: { digest: plan.digest, show: 'changed', offset: 1 },
    });
    expect([total, rows]).toMatchObject([2, [{ row: 1, from: 'tilt.0002.png', to: 'bell.0002.png', fault: 'none' }]]);
    expect(await refused(served.fetch(routes.renameRows, { body: { digest: 'other' } }))).toMatchObject({
      code: 'plan-forgotten',
    });
    const other = { sources, spec: naming, digest: 'other' };
    expect(await refused(served.fetch(routes.startRename, { body: other }))).toMatchObject({ code: 'plan-changed' });
    const begun = await served.ask(routes.startRename, { body: { sources, spec: naming, digest: plan.digest } });
    const stateOf = async (id: string) =>
      (await served.ask(routes.listRenames, {})).find((one) => one.id === id)?.state;
    await until(async () => (await stateOf(begun.id)) === 'done', 'renamed');
    const back = await served.ask(routes.undoRename, { params: { rename: begun.id }, body: {} });
    await until(async () => (await stateOf(back.id)) === 'done', 'brought back');
    expect(await stateOf(begun.id)).toBe('undone');
    expect(await refused(served.fetch(routes.undoRename, { params: { rename: begun.id }, body: {} }))).toMatchObject({
      code: 'not-undoable',
    });
  });
});

/** What the event stream tells from now on, each held to its schema. */
async function listening(): Promise<ServerEvent[]> {
  const told: ServerEvent[] = [];
  const { body } = await served.fetch(routes.events, {});
  void (async () => {
    let text = '';
    for await (const piece of body!.pipeThrough(new TextDecoderStream() as never) as unknown as AsyncIterable<string>) {
      const parts = (text + piece).split('\n\n');
      text = parts.pop()!;
      for (const part of parts)
        if (part.startsWith('data: ')) told.push(eventSchema.parse(JSON.parse(part.slice('data: '.length))));
    }
  })().catch(() => undefined);
  return told;
}

test('a listener that goes takes nothing along, and the next is told', async () => {
  const stop = new AbortController();
  await fetch(`${served.url}/api/events`, { signal: stop.signal });
  stop.abort();
  const told = await listening();
  ground.events.send({ type: 'sources', root: 'shots' });
  await until(() => told.some(({ type }) => type === 'sources'), 'the event');
  expect(told).toContainEqual({ type: 'sources', root: 'shots' });
});

test('health tells what it stands on', async () => {
  expect(await served.ask(routes.health, {})).toMatchObject({ version: '0.0.1', ready: true, problems: [] });
});
