import { lazy, type ComponentType } from 'react';
import { ShaleError } from '@shale/core';

/** The page cannot be had: the server is away, or has become another version since this one was opened. */
export const pageNotLoaded = 'page-not-loaded';

/** A page that is fetched once it is wanted: by then, or as soon as its name in the head is pointed at. */
function page<K extends string>(load: () => Promise<Record<K, ComponentType>>, name: K) {
  const fetched = () =>
    load().then(
      (module) => ({ default: module[name] }),
      (error: unknown) => {
        throw new ShaleError(
          {
            code: pageNotLoaded,
            fact: 'This page could not be loaded: the server does not answer, or runs another version.',
            wayOut: 'Reload when it is back.',
          },
          { cause: error },
        );
      },
    );
  return { Page: lazy(fetched), ahead: () => void load().catch(() => undefined) };
}

/** Every page by its path; those with a name stand in the head. */
export const pages = [
  { path: '/intake', name: 'Intake', ...page(() => import('../pages/intake/IntakePage.tsx'), 'IntakePage') },
  {
    ...{ path: '/inspect', more: '/:id?', name: 'Inspect' },
    ...page(() => import('../pages/inspect/InspectPage.tsx'), 'InspectPage'),
  },
  {
    ...{ path: '/convert', more: '/:id?', name: 'Convert' },
    ...page(() => import('../pages/convert/ConvertPage.tsx'), 'ConvertPage'),
  },
  {
    ...{ path: '/convert/many', more: '/:selection' },
    ...page(() => import('../pages/convert/many/ManyPage.tsx'), 'ManyPage'),
  },
  {
    ...{ path: '/convert/small', more: '/:id?' },
    ...page(() => import('../pages/convert/small/SmallPage.tsx'), 'SmallPage'),
  },
  { path: '/rename', name: 'Rename', ...page(() => import('../pages/rename/RenamePage.tsx'), 'RenamePage') },
  { path: '/rename/history', ...page(() => import('../pages/rename/HistoryPage.tsx'), 'HistoryPage') },
  { path: '/jobs', name: 'Jobs', ...page(() => import('../pages/jobs/JobsPage.tsx'), 'JobsPage') },
  {
    ...{ path: '/jobs/standing', more: '/:standing?' },
    ...page(() => import('../pages/jobs/standing/StandingPage.tsx'), 'StandingPage'),
  },
  { path: '/server', ...page(() => import('../pages/server/ServerPage.tsx'), 'ServerPage') },
  {
    ...{ path: '/receipts', more: '/:job?', name: 'Receipts' },
    ...page(() => import('../pages/receipts/ReceiptsPage.tsx'), 'ReceiptsPage'),
  },
  {
    ...{ path: '/receipts/batch', more: '/:batch' },
    ...page(() => import('../pages/receipts/ReceiptsPage.tsx'), 'ReceiptsPage'),
  },
  {
    ...{ path: '/specs', more: '/:kind?/:id?', name: 'Specs & receivers' },
    ...page(() => import('../pages/specs/SpecsPage.tsx'), 'SpecsPage'),
  },
  {
    ...{ path: '/reckoner', name: 'Reckoner' },
    ...page(() => import('../pages/reckoner/ReckonerPage.tsx'), 'ReckonerPage'),
  },
] as { path: string; more?: string; name?: string; Page: ComponentType; ahead: () => void }[];
