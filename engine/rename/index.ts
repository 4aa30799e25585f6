export * from './carry.ts';
export { isEnded, listRecords, readRecord, stepOf as renameStep, type Record as RenameRecord } from './journal.ts';
export * from './day.ts';
export * from './plan.ts';
export * from './recover.ts';
export * from './undo.ts';
