import { routes } from '@shale/contract';
import { requestFor } from './ask.ts';

test('the path of an operation is filled in, and what is in it is encoded', () => {
  expect(requestFor(routes.frameFacts, { params: { source: 'a1', frame: 1001 } })).toEqual({
    url: '/sources/a1/frames/1001/facts',
    method: 'GET',
  });
  expect(requestFor(routes.setAside, { params: { source: 'a b/c', code: 'x' }, body: { reason: null } })).toEqual({
    url: '/sources/a%20b%2Fc/findings/x',
    method: 'PUT',
    body: { reason: null },
  });
});

test('a query holds what is set, and no more', () => {
  const { params } = requestFor(routes.listSources, { query: { root: 'museum', folder: undefined, limit: 60 } });
  expect(params).toEqual({ root: 'museum', limit: 60 });
});

test('an operation that is sent nothing has no body', () => {
  expect(requestFor(routes.findCadence, { params: { source: 's' } })).toEqual({
    url: '/sources/s/cadence',
    method: 'POST',
  });
});
