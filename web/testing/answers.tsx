import { ThemeProvider } from '@mui/material/styles';
import { cleanup, configure, getConfig, render, screen, waitFor } from '@testing-library/react';
import type { ReactElement } from 'react';
import { Provider } from 'react-redux';
import { MemoryRouter, Route as PathRoute, Routes, useLocation } from 'react-router';
import { VirtuosoMockContext } from 'react-virtuoso';
import { parameterNames, routes, type Route } from '@shale/contract';
import type { Problem } from '@shale/core';
import { api } from '../api/api.ts';
import { store } from '../state/store.ts';
import { makeTheme } from '../theme/theme.ts';

/** What was asked of an operation. */
export interface Asked {
  params: Record<string, unknown>;
  query: Record<string, string>;
  body: unknown;
}
type Give = unknown | ((asked: Asked) => unknown);
type Name = keyof typeof routes;

/** Refuses, as an answer. */
export class Refusal {
  constructor(readonly problem: Problem) {}
}
/** An answer that does not come. */
export const never = Symbol('never');

/**
 * A server that answers as a test says, and holds both sides to the contract: what a page sends is read by the
 * operation's schemas, and an answer that does not fit its schema fails the test.
 */
export class Answers {
  private readonly gives = new Map<Name, Give>();
  /** Everything that was asked, in its order. */
  readonly asked: (Asked & { name: Name })[] = [];

  constructor(gives: Partial<Record<Name, Give>>) {
    this.give({ health: { version: '0.0.0', ready: true, problems: [] }, listBatches: [], ...gives });
    globalThis.fetch = (input, init) => this.answer(new Request(input, init));
  }

  give(gives: Partial<Record<Name, Give>>): void {
    for (const [name, give] of Object.entries(gives)) this.gives.set(name as Name, give);
  }

  /** What was asked of one operation. */
  of(name: Name): Asked[] {
    return this.asked.filter((one) => one.name === name);
  }

  private async answer(request: Request): Promise<Response> {
    const { pathname, searchParams } = new URL(request.url);
    const found = this.find(request.method.toLowerCase(), pathname);
    if (!found) throw new Error(`no operation is ${request.method} ${pathname}`);
    const { name, params } = found;
    const route: Route = routes[name];
    const text = await request.text();
    const body: unknown = text === '' ? undefined : JSON.parse(text);
    if (route.body) route.body.parse(body ?? {});
    const query = Object.fromEntries(searchParams);
    route.query?.parse(query);
    const asked = { params, query, body };
    this.asked.push({ name, ...asked });
    const give = this.gives.get(name);
    if (give === undefined) throw new Error(`the test has no answer of ${name}`);
    const given = typeof give === 'function' ? (give as (asked: Asked) => unknown)(asked) : give;
    if (given === never) {
      keptBack += 1;
      return new Promise(() => undefined);
    }
    if (given instanceof Refusal) {
      const details = { type: 'x', title: 'x', status: 409, detail: 'x', ...given.problem };
      return Response.json(details, { status: 409 });
    }
    return Response.json(route.response?.parse(given), { status: route.status ?? 200 });
  }

  private find(method: string, pathname: string): { name: Name; params: Record<string, string> } | undefined {
    // A path in words comes before one with a parameter in the same place.
    const inOrder = Object.entries(routes).sort(([, a], [, b]) => a.path.split(':').length - b.path.split(':').length);
    for (const [name, route] of inOrder) {
      const pattern = `^/api${route.path.replace(/:\w+/g, '([^/]+)')}$`;
      const match = route.method === method && new RegExp(pattern).exec(pathname);
      if (!match) continue;
      const values = match.slice(1).map(decodeURIComponent);
      return {
        name: name as Name,
        params: Object.fromEntries(parameterNames(route.path).map((one, at) => [one, values[at]!])),
      };
    }
    return undefined;
  }
}

function Address() {
  const { pathname, search } = useLocation();
  return <span data-testid="address">{pathname + search}</span>;
}

/** Waits until the page is at an address: the path with what is asked of it. */
export const arrive = (address: string) =>
  waitFor(() => expect(screen.getByTestId('address').textContent).toBe(address));

/** Shows a page or a piece of one as it stands in the application. @param at the address, and the path that it fits */
export function show(what: ReactElement, at = '/', path = '*') {
  return render(
    <Provider store={store}>
      <ThemeProvider theme={makeTheme('daylight')}>
        <VirtuosoMockContext.Provider value={{ viewportHeight: 600, itemHeight: 60 }}>
          <MemoryRouter initialEntries={[at]}>
            <Routes>
              <PathRoute path={path} element={what} />
              <PathRoute path="*" element={null} />
            </Routes>
            <Address />
          </MemoryRouter>
        </VirtuosoMockContext.Provider>
      </ThemeProvider>
    </Provider>,
  );
}

/** Calls whose answers have neither come nor been kept back (`never`). */
function underWay(): number {
  const { queries, mutations } = store.getState().api;
  const pending = [...Object.values(queries), ...Object.values(mutations)].filter((one) => one?.status === 'pending');
  return pending.length - keptBack;
}
let keptBack = 0;
/** Time that what is waited for has to appear, in ms: far more than it takes on a busy machine. */
const patience = 10_000;

// What a person does waits for the answers that it asked for, so that no test depends on how quick a machine is.
const { asyncWrapper } = getConfig();
configure({
  asyncUtilTimeout: patience,
  asyncWrapper: async (action) => {
    const result = await asyncWrapper(action);
    const until = Date.now() + patience;
    while (underWay() > 0 && Date.now() < until)
      await asyncWrapper(() => new Promise((resolve) => setTimeout(resolve, 5)));
    return result;
  },
});

/** Forgets what a test was answered. */
export function forget(): void {
  cleanup();
  keptBack = 0;
  store.dispatch(api.util.resetApiState());
}
