import { mkdir, readFile, rename, rm, symlink, writeFile } from 'node:fs/promises';
import { routes } from '@shale/contract';
import { Ground, until } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';
import { AddedFolders } from './folders.ts';

let ground: Ground;
let served: Served;
const home = (...path: string[]) => ground.in('home', ...path);
beforeAll(async () => {
  ground = await Ground.make();
  for (const folder of ['shows/040', 'shows/.hidden', 'shows/take_10', 'shows/take_9'])
    await mkdir(home(folder), { recursive: true });
  await ground.put('home/shows', '040', 'pan', [1, 2, 3]);
  await writeFile(home('shows', 'note.txt'), '');
  await symlink(ground.in('shots'), home('out'));
  served = await Served.on(ground);
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

const refusal = async (answer: Promise<Response>) => {
  const response = await answer;
  return [response.status, ((await response.json()) as { code: string }).code];
};
const browse = (path?: string) => served.ask(routes.browse, { query: path === undefined ? {} : { path } });
const add = (body: { path: string; name?: string; writable?: boolean }) => served.fetch(routes.addRoot, { body });

test('folders are looked through from the places on, hidden ones and files left out, numbers in their order', async () => {
  expect(await browse()).toMatchObject({ path: '', above: null, folders: [{ path: home() }] });
  const shows = await browse(home('shows'));
  expect(shows.folders.map(({ name }) => name)).toEqual(['040', 'take_9', 'take_10']);
  expect([shows.above, (await browse(home())).above]).toEqual([home(), '']);
});

test('nothing outside of the places is told or added: by steps up, by links, by whole paths', async () => {
  for (const path of ['/etc', '/', home('..'), home('shows', '..', '..'), home('out'), ground.in('journal')]) {
    expect(await refusal(served.fetch(routes.browse, { query: { path } }))).toEqual([403, 'outside-places']);
    expect(await refusal(add({ path }))).toEqual([403, 'outside-places']);
  }
  expect(await refusal(add({ path: home('nobody') }))).toEqual([409, 'folder-gone']);
  expect(await refusal(add({ path: home('shows', 'note.txt') }))).toEqual([409, 'folder-gone']);
});

test('a folder that is added is scanned, converted from, kept, and taken off again with nothing touched', async () => {
  const added = await add({ path: home('shows'), name: 'Our shows' });
  expect(added.status).toBe(201);
  const root = (await added.json()) as { id: string; added: boolean };
  expect(root).toMatchObject({ id: 'our-shows', name: 'Our shows', added: true, writable: false });
  await until(async () => (await ground.store.sources.ids({ root: root.id })).length === 1, 'it is scanned');
  expect(await refusal(add({ path: home('shows') }))).toEqual([409, 'taken']);
  const second = (await (await add({ path: home('shows', '040'), name: 'Our shows' })).json()) as { id: string };
  expect(second.id).toBe('our-shows-2');
  expect((await served.ask(routes.listRoots, {})).map(({ id }) => id).slice(0, 2)).toEqual([
    'our-shows-2',
    'our-shows',
  ]);
  const kept = JSON.parse(await readFile(ground.in('folders.json'), 'utf8')) as { roots: { id: string }[] };
  expect(kept.roots.map(({ id }) => id)).toEqual(['our-shows', 'our-shows-2']);
  // Another start knows them.
  const again = await new AddedFolders(ground.in('folders.json'), [], ground.in('journal')).begin();
  expect(again.map(({ id }) => id)).toEqual(['our-shows', 'our-shows-2']);
  for (const { id } of kept.roots) await served.ask(routes.removeRoot, { params: { root: id } });
  expect(await ground.store.sources.ids({ root: root.id })).toEqual([]);
  expect(await browse(home('shows', '040'))).toMatchObject({ folders: [] });
  expect(await refusal(served.fetch(routes.removeRoot, { params: { root: 'shots' } }))).toEqual([409, 'not-added']);
});

test('whoever starts Shale with a folder is not held to the places; its own data are no footage for anybody', async () => {
  const folders = new AddedFolders(ground.in('anywhere.json'), [home()], ground.in('journal'));
  const wanted = { path: home('out'), writable: false };
  await expect(folders.add(wanted, [])).rejects.toMatchObject({ code: 'outside-places' });
  expect(await folders.add(wanted, [], true)).toMatchObject({ writable: false, added: true });
  const own = { path: ground.in('journal'), writable: false };
  await expect(folders.add(own, [], true)).rejects.toMatchObject({ code: 'outside-places' });
});

test('a list of folders that cannot be read is put aside, and the server starts', async () => {
  const file = ground.in('broken.json');
  await writeFile(file, 'nonsense');
  expect(await new AddedFolders(file, [], ground.in('journal')).begin()).toEqual([]);
  expect(await readFile(`${file}.unreadable`, 'utf8')).toBe('nonsense');
  await rm(`${file}.unreadable`);
});

test('a folder in use stays; one that has gone says so on the list', async () => {
  const root = (await (await add({ path: home('shows'), writable: true })).json()) as { id: string };
  await until(async () => (await ground.store.sources.ids({ root: root.id })).length === 1, 'it is scanned');
  await rename(home('shows'), home('moved'));
  await served.ask(routes.scanRoot, { params: { root: root.id } });
  await until(
    async () => (await served.ask(routes.listRoots, {})).find(({ id }) => id === root.id)?.problem !== null,
    'its absence is told',
  );
  await rename(home('moved'), home('shows'));
  await served.ask(routes.removeRoot, { params: { root: root.id } });
});
