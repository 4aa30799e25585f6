export * from './nameRoutes.ts';
export * from './openapi.ts';
export * from './problems.ts';
export * from './problemStatuses.ts';
export * from './route.ts';
export * from './routes.ts';
export * from './schemas.ts';
export * from './timeRoutes.ts';
