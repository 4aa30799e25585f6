import { createHash } from 'node:crypto';
import type { Knex } from 'knex';
import pLimit from 'p-limit';
import {
  allFindings,
  declare,
  ruleFor,
  withOlderVersions,
  type Finding,
  type Rule,
  type Source,
  type Word,
} from '@shale/core';
import { readRows } from './rows.ts';
import { columnsOf, fewer } from './sourceColumns.ts';
import type { FolderCount, ListedSource, Overview, SourceFilter, SourceSort } from '@shale/contract';

/** The id of a source: the same after every scan, fit for an address. */
export const sourceId = (root: string, folder: string, name: string): string =>
  createHash('sha256').update(`${root}\0${folder}\0${name}`).digest('hex').slice(0, 16);

/** A finding that a person set aside, and what it said then. */
interface Aside {
  code: string;
  sentence: string;
  reason: string;
}

interface SourceRow {
  id: string;
  root: string;
  folder: string;
  /** The scan's own words, as JSON: written anew by every scan, and too many to be checked at each look. */
  data: string;
}

/** Sources as the pages list them, and what people said of them: words, rules, findings set aside. */
export class Sources {
  private readonly rulesByRoot = new Map<string, Rule[]>();
  private readonly saying = pLimit(1);

  constructor(private readonly knex: Knex) {}

  /** Enters sources of a scan. @param scan the scan's number, which grows */
  async put(root: string, sources: Source[], scan: number): Promise<void> {
    if (sources.length === 0) return;
    const rules = await this.rules(root);
    // One transaction: the disk is waited for once, not for every statement.
    await this.knex.transaction(async (all) => {
      for (let at = 0; at < sources.length; at += 500)
        await this.putPart(all, root, sources.slice(at, at + 500), rules, scan);
    });
  }

  private async putPart(all: Knex, root: string, part: Source[], rules: Rule[], scan: number): Promise<void> {
    const ids = part.map((source) => sourceId(root, source.folder, source.name));
    const [words, asides] = await Promise.all([this.words(ids), this.asides(ids)]);
    const rows = part.map((source, index) => {
      const id = ids[index]!;
      const listed = view(id, root, source, words.get(id), ruleFor(rules, source.folder), asides.get(id));
      return { ...identity(listed), data: JSON.stringify(source), scan, ...columnsOf(listed) };
    });
    await all('sources').insert(rows).onConflict('id').merge();
  }

  /** Drops what a scan with this number did not find: in a whole root, in one folder, or in a folder and all below it. */
  async dropBefore(root: string, scan: number, within?: { folder: string; below: boolean }): Promise<void> {
    const query = this.knex('sources').where({ root }).andWhere('scan', '<', scan);
    if (within) (within.below ? inFolder : exactly)(query, within.folder);
    await query.delete();
  }

  /**
   * Marks, among the versions of one thing, those that have a newer one. Only rows that change are written.
   * @returns how many changed
   */
  async markVersions(root: string): Promise<number> {
    const rows = await this.knex('sources')
      .where({ root })
      .whereNotNull('family')
      .select<Pick<SourceRow, 'id' | 'data'>[]>('id', 'data');
    const sources = rows.map(({ data }) => JSON.parse(data) as Source);
    const marked = withOlderVersions(sources);
    const changed = rows.flatMap(({ id }, index) =>
      JSON.stringify(marked[index]!.findings) === JSON.stringify(sources[index]!.findings)
        ? []
        : [{ id, data: JSON.stringify(marked[index]) }],
    );
    for (const { id, data } of changed) await this.knex('sources').where({ id }).update({ data });
    if (changed.length > 0) await this.renew(changed.map(({ id }) => id));
    return changed.length;
  }

  async list(
    filter: SourceFilter,
    options: { sort?: SourceSort; descending?: boolean; offset?: number; limit?: number; parts?: number } = {},
  ): Promise<ListedSource[]> {
    const { sort = 'folder', descending = false, offset = 0, limit = 1000, parts = 1024 } = options;
    const ids = this.filtered(filter).select('id').offset(offset).limit(limit);
    const direction = descending ? 'desc' : 'asc';
    const by = {
      folder: 'place',
      name: 'place',
      frames: 'frames',
      bytes: 'bytes',
      modified: 'modified',
      findings: 'worst',
    }[sort];
    if (filter.root === undefined) ids.orderBy('root');
    ids.orderBy(by, direction);
    if (by !== 'place') ids.orderBy('place');
    const order = ((await ids) as { id: string }[]).map(({ id }) => id);
    const listed = await this.byIds(order);
    return order.flatMap((id) => {
      const source = listed.get(id);
      return source ? [{ ...source, weights: fewer(source.weights, parts) }] : [];
    });
  }

  async get(id: string): Promise<ListedSource | undefined> {
    return (await this.byIds([id])).get(id);
  }

  async ids(filter: SourceFilter): Promise<string[]> {
    return ((await this.filtered(filter).select('id').orderBy('place')) as { id: string }[]).map(({ id }) => id);
  }

  async overview(filter: SourceFilter, sort: SourceSort): Promise<Overview> {
    const here: SourceFilter = { root: filter.root, folder: filter.folder };
    const [left, groups, all, kinds, rates, codes] = await Promise.all([
      this.filtered(filter).first(this.knex.raw('COUNT(*) AS total, COALESCE(SUM(bytes), 0) AS bytes')) as Promise<
        Record<string, unknown>
      >,
      sort === 'folder' ? this.groups(filter) : Promise.resolve([]),
      this.filtered(here).first(
        this.knex.raw(
          'COUNT(*) AS total, COALESCE(SUM(worst >= 2), 0) AS look, COALESCE(SUM(undeclared), 0) AS undeclared',
        ),
      ) as Promise<Record<string, unknown>>,
      this.counts(here, 'kind'),
      this.counts(here, 'rate'),
      this.counts(here, 'codes'),
    ]);
    const byCode: Record<string, number> = {};
    for (const [list, count] of Object.entries(codes))
      for (const code of list.trim().split(' ').filter(Boolean)) byCode[code] = (byCode[code] ?? 0) + count;
    return {
      total: Number(left.total),
      bytes: Number(left.bytes),
      groups: groups.map(({ folder, count }) => ({ folder, count })),
      facets: {
        all: Number(all.total),
        look: Number(all.look),
        undeclared: Number(all.undeclared),
        kinds,
        rates,
        codes: byCode,
      },
    };
  }

  /** The folders of a list in its order, and how many of its sources lie in each. */
  private async groups(filter: SourceFilter): Promise<{ root: string; folder: string; count: number }[]> {
    // By what `place` begins with, which an index holds; a folder's name is read from one of its rows.
    const rows = (await this.filtered(filter)
      .select(
        'root',
        this.knex.raw("SUBSTRING_INDEX(place, '\u0001', 2) AS spot"),
        this.knex.raw('MIN(id) AS id, COUNT(*) AS count'),
      )
      .groupBy('root', 'spot')
      .orderBy(['root', 'spot'])) as { root: string; id: string; count: number }[];
    const folders = new Map<string, string>();
    for (let at = 0; at < rows.length; at += 1000) {
      const ids = rows.slice(at, at + 1000).map(({ id }) => id);
      const named = await this.knex('sources')
        .whereIn('id', ids)
        .select<Pick<SourceRow, 'id' | 'folder'>[]>('id', 'folder');
      for (const { id, folder } of named) folders.set(id, folder);
    }
    return rows.map(({ root, id, count }) => ({ root, folder: folders.get(id) ?? '', count: Number(count) }));
  }

  /** Folders directly below each root. */
  async folders(): Promise<FolderCount[]> {
    const tops = new Map<string, FolderCount>();
    for (const { root, folder, count } of await this.groups({})) {
      if (folder === '') continue;
      const top = folder.split('/')[0]!;
      const held = tops.get(`${root}/${top}`);
      if (held) held.count += count;
      else tops.set(`${root}/${top}`, { root, folder: top, count });
    }
    return [...tops.values()];
  }

  /** Forgets the sources of a root; what was said of them stays, for when it comes back. */
  async dropRoot(root: string): Promise<void> {
    await this.knex('sources').where({ root }).delete();
    await this.knex('scans').where({ root }).delete();
  }

  async countByRoot(): Promise<Map<string, number>> {
    const rows = (await this.knex('sources').select('root').count({ count: '*' }).groupBy('root')) as unknown as {
      root: string;
      count: number;
    }[];
    return new Map(rows.map(({ root, count }) => [root, Number(count)]));
  }

  /** Ids of a folder's sources that have a finding. */
  async withCode(root: string, folder: string, code: string): Promise<string[]> {
    const query = this.knex('sources').where({ root }).where('codes', 'like', `% ${code} %`).select('id');
    return ((await exactly(query, folder)) as { id: string }[]).map(({ id }) => id);
  }

  async putWord(source: string, word: Word): Promise<void> {
    await this.putWords([[source, word]]);
  }

  /** Adds facts to the words of many sources and takes others away. @returns how many of them there are */
  changeWords(ids: string[], set: Word, clear: readonly (keyof Word)[]): Promise<number> {
    // One after another: of two facts that are said at once neither is lost.
    return this.saying(() => this.changeAll(ids, set, clear));
  }

  private async changeAll(ids: string[], set: Word, clear: readonly (keyof Word)[]): Promise<number> {
    let changed = 0;
    for (let at = 0; at < ids.length; at += 1000) {
      const known = this.knex('sources')
        .whereIn('id', ids.slice(at, at + 1000))
        .select('id');
      const part = ((await known) as { id: string }[]).map(({ id }) => id);
      if (part.length === 0) continue;
      changed += part.length;
      const words = await this.words(part);
      await this.putWords(
        part.map((id) => {
          const word = { ...words.get(id), ...set };
          for (const fact of clear) delete word[fact];
          return [id, word];
        }),
      );
    }
    return changed;
  }

  private async putWords(words: [source: string, word: Word][]): Promise<void> {
    const changed = new Date().toISOString();
    await this.knex('words')
      .insert(words.map(([source, word]) => ({ source, word: JSON.stringify(word), changed })))
      .onConflict('source')
      .merge();
    await this.renew(words.map(([source]) => source));
  }

  /** Lets what was said of sources hold for others: the same files under new names. What was said of those before goes. */
  async carryOver(pairs: readonly (readonly [from: string, to: string])[]): Promise<void> {
    for (let at = 0; at < pairs.length; at += 500) {
      const part = new Map(pairs.slice(at, at + 500).filter(([from, to]) => from !== to));
      const ids = [...part.keys()];
      const changed = new Date().toISOString();
      const [words, asides] = await Promise.all([this.words(ids), this.asides(ids)]);
      const said = [...words].map(([id, word]) => ({ source: part.get(id)!, word: JSON.stringify(word), changed }));
      const aside = [...asides].flatMap(([id, list]) =>
        list.map((one) => ({ ...one, source: part.get(id)!, changed })),
      );
      if (said.length > 0) await this.knex('words').insert(said).onConflict('source').merge();
      if (aside.length > 0) await this.knex('set_aside').insert(aside).onConflict(['source', 'code']).merge();
      await this.renew([...part.values()]);
    }
  }

  /** Sources in the order of their ids; those that are no longer there are left out. */
  async many(ids: string[]): Promise<ListedSource[]> {
    const listed = await this.byIds(ids);
    return ids.flatMap((id) => listed.get(id) ?? []);
  }

  /** Sets a finding aside with a reason, as long as it says what it says now; null takes it up again. */
  async putAside(source: string, finding: Pick<Finding, 'code' | 'sentence'>, reason: string | null): Promise<void> {
    const { code, sentence } = finding;
    if (reason === null) await this.knex('set_aside').where({ source, code }).delete();
    else
      await this.knex('set_aside')
        .insert({ source, code, sentence, reason, changed: new Date().toISOString() })
        .onConflict(['source', 'code'])
        .merge();
    await this.renew([source]);
  }

  async rules(root: string): Promise<Rule[]> {
    const kept = this.rulesByRoot.get(root);
    if (kept) return kept;
    const rules = readRows('rules', await this.knex('rules').where({ root }).orderBy('folder'));
    this.rulesByRoot.set(root, rules);
    return rules;
  }

  /** Keeps a rule; one without a fact is taken away. Every source that it holds for is declared anew. */
  async putRule(root: string, { folder, word }: Rule): Promise<void> {
    const id = sourceId(root, folder, '');
    if (Object.keys(word).length === 0) await this.knex('rules').where({ id }).delete();
    else
      await this.knex('rules')
        .insert({ id, root, folder, word: JSON.stringify(word), changed: new Date().toISOString() })
        .onConflict('id')
        .merge();
    this.rulesByRoot.delete(root);
    await this.renew(await this.ids({ root, folder }));
  }

  /** Works the columns of some rows out again, and touches no other. */
  private async renew(ids: string[]): Promise<void> {
    for (let at = 0; at < ids.length; at += 500) {
      const listed = [...(await this.byIds(ids.slice(at, at + 500))).values()];
      if (listed.length === 0) continue;
      const columns = listed.map(columnsOf);
      const rows = listed.map((source, index) => ({ ...identity(source), data: '', scan: 0, ...columns[index]! }));
      await this.knex('sources').insert(rows).onConflict('id').merge(Object.keys(columns[0]!));
    }
  }

  private filtered(filter: SourceFilter): Knex.QueryBuilder {
    const query = this.knex('sources');
    if (filter.root !== undefined) query.where('root', filter.root);
    if (filter.folder) inFolder(query, filter.folder);
    if (filter.kind !== undefined) query.where('kind', filter.kind);
    if (filter.code !== undefined) query.where('codes', 'like', `% ${filter.code} %`);
    if (filter.rate === 'none') query.where('undeclared', true);
    else if (filter.rate !== undefined) query.where('rate', filter.rate);
    if (filter.look) query.where('worst', '>=', 2);
    if (filter.sounds)
      query.whereRaw("(kind = 'sound' or (kind = 'clip' and json_exists(data, '$.facts.clip.sound')))");
    if (filter.hours !== undefined) query.where('modified', '>=', Date.now() - filter.hours * 3_600_000);
    if (filter.text) {
      const text = `%${escapeLike(filter.text)}%`;
      query.where((either) => {
        void either.where('name', 'like', text).orWhere('folder', 'like', text);
      });
    }
    return query;
  }

  private async counts(filter: SourceFilter, column: 'kind' | 'rate' | 'codes'): Promise<Record<string, number>> {
    const rows = await this.filtered(filter)
      .whereNotNull(column)
      .select<Record<string, unknown>[]>(column, this.knex.raw('COUNT(*) AS count'))
      .groupBy(column);
    return Object.fromEntries(rows.map((row) => [String(row[column]), Number(row.count)]));
  }

  private async byIds(ids: string[]): Promise<Map<string, ListedSource>> {
    const listed = new Map<string, ListedSource>();
    for (let at = 0; at < ids.length; at += 1000) {
      const part = ids.slice(at, at + 1000);
      const [rows, words, asides] = await Promise.all([
        this.knex('sources').whereIn('id', part).select<SourceRow[]>('id', 'root', 'folder', 'data'),
        this.words(part),
        this.asides(part),
      ]);
      for (const { id, root, folder, data } of rows) {
        const rule = ruleFor(await this.rules(root), folder);
        listed.set(id, view(id, root, JSON.parse(data) as Source, words.get(id), rule, asides.get(id)));
      }
    }
    return listed;
  }

  private async words(ids: string[]): Promise<Map<string, Word>> {
    const rows = readRows('words', await this.knex('words').whereIn('source', ids));
    return new Map(rows.map(({ source, word }) => [source, word]));
  }

  private async asides(ids: string[]): Promise<Map<string, Aside[]>> {
    const rows = readRows('set_aside', await this.knex('set_aside').whereIn('source', ids));
    const by = new Map<string, Aside[]>();
    for (const { source, code, sentence, reason } of rows)
      by.set(source, [...(by.get(source) ?? []), { code, sentence, reason }]);
    return by;
  }
}

const escapeLike = (text: string): string => text.replace(/[\\%_]/g, '\\$&');

/** Narrows to a folder and all below it; folders are told apart to the letter, as the file system does. */
function inFolder<Q extends Knex.QueryBuilder>(query: Q, folder: string): Q {
  if (folder === '') return query;
  query.where((either) => {
    void either.whereRaw('BINARY folder = ?', [folder]).orWhereRaw('BINARY folder LIKE ?', [`${escapeLike(folder)}/%`]);
  });
  return query;
}

function exactly<Q extends Knex.QueryBuilder>(query: Q, folder: string): Q {
  query.whereRaw('BINARY folder = ?', [folder]);
  return query;
}

/** A source as it is shown: declared, with the findings of its declaration, those set aside marked as long as they say the same. */
function view(
  id: string,
  root: string,
  source: Source,
  word: Word | undefined,
  rule: Rule | undefined,
  asides: Aside[] = [],
): ListedSource {
  const declaration = declare(source, word, rule);
  const findings = allFindings(source, declaration).map((finding) => {
    const aside = asides.find(({ code, sentence }) => code === finding.code && sentence === finding.sentence);
    return aside ? { ...finding, setAside: aside.reason } : finding;
  });
  return { ...source, findings, id, root, declaration };
}

/** What a row is found by. */
const identity = ({ id, root, folder, name }: ListedSource) => ({ id, root, folder, name });
