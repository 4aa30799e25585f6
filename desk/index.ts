export { counters, type Counter } from './counters.ts';
export { judge, type Answer } from './judge.ts';
export { lookAt, type Seen } from './lookAt.ts';
export { openDesk, type Desk } from './desk.ts';
