import { namingSpecSchema } from '@shale/core';
import { emptyNaming, type NamingState } from './naming.ts';
import type { ReceiversState } from './receivers.ts';
import type { ViewState } from './view.ts';

/** What of the state outlives a page that is loaded anew. */
export interface KeptState {
  view: ViewState;
  naming: NamingState;
  receivers: ReceiversState;
}

/** Where it is kept: the scheme for every window, the rest for this one. */
export interface Shelves {
  local: Pick<Storage, 'getItem' | 'setItem'>;
  session: Pick<Storage, 'getItem' | 'setItem'>;
}

const places = {
  scheme: 'shale-scheme',
  whole: 'shale-whole',
  source: 'shale-source',
  many: 'shale-many',
  seen: 'shale-seen',
  naming: 'shale-naming',
  receivers: 'shale-receivers',
} as const;

/** Ids that are kept: thousands would fill the browser's store. */
const mostIds = 2000;

/** What was kept as JSON, as far as it fits. */
function read<T>(text: string | null, otherwise: T, as: (said: never) => T): T {
  try {
    return text === null ? otherwise : as(JSON.parse(text) as never);
  } catch {
    return otherwise;
  }
}

/** @param isDark whether the system asks for a dark scheme */
export function readKept({ local, session }: Shelves, isDark: boolean): KeptState {
  const scheme = local.getItem(places.scheme);
  const naming = (said: Partial<NamingState>): NamingState => ({
    sources: said.sources ?? [],
    spec: namingSpecSchema.parse(said.spec ?? { version: 1 }),
    receiver: said.receiver ?? null,
    begun: null,
  });
  const receivers = (said: object): ReceiversState =>
    Object.fromEntries(Object.entries(said).filter(([, id]) => typeof id === 'string'));
  return {
    view: {
      scheme: scheme === 'daylight' || scheme === 'basalt' ? scheme : isDark ? 'basalt' : 'daylight',
      source: session.getItem(places.source),
      many: session.getItem(places.many) || null,
      notices: [],
      meant: null,
      whole: local.getItem(places.whole) === 'true',
      seen: read(local.getItem(places.seen), [], (said: string[]) => said.filter((id) => typeof id === 'string')),
    },
    naming: read(session.getItem(places.naming), emptyNaming, naming),
    receivers: read(session.getItem(places.receivers), {}, receivers),
  };
}

/** Keeps what changed since `before`. A store that is full keeps what it had. */
export function keepChanges({ local, session }: Shelves, before: KeptState, now: KeptState): void {
  const keep = (shelf: Shelves['local'], place: string, value: string) => {
    try {
      shelf.setItem(place, value);
    } catch {
      // Full, or switched off: the page works on, and begins anew when it is loaded.
    }
  };
  if (now.view.scheme !== before.view.scheme) keep(local, places.scheme, now.view.scheme);
  if (now.view.whole !== before.view.whole) keep(local, places.whole, String(now.view.whole));
  if (now.view.seen !== before.view.seen) keep(local, places.seen, JSON.stringify(now.view.seen));
  if (now.view.source !== before.view.source && now.view.source) keep(session, places.source, now.view.source);
  if (now.view.many !== before.view.many) keep(session, places.many, now.view.many ?? '');
  if (now.naming !== before.naming) {
    const { sources, spec, receiver } = now.naming;
    keep(session, places.naming, JSON.stringify({ sources: sources.slice(0, mostIds), spec, receiver }));
  }
  if (now.receivers !== before.receivers) keep(session, places.receivers, JSON.stringify(now.receivers));
}
