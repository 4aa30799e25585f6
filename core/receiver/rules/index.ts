import {
  alone,
  byName,
  characters,
  digits,
  first,
  letters,
  nameLength,
  pathLength,
  separator,
  unbroken,
} from './names.ts';
import {
  alpha,
  fileBytes,
  formats,
  frameBytes,
  loops,
  multipleOf,
  rates,
  samples,
  seconds,
  size,
  totalBytes,
  transfers,
} from './pictures.ts';

/** Every rule of receivers, in the order in which they are told. */
export const receiverRules = {
  characters,
  letters,
  separator,
  digits,
  byName,
  first,
  unbroken,
  alone,
  nameLength,
  pathLength,
  formats,
  samples,
  alpha,
  transfers,
  size,
  multipleOf,
  rates,
  seconds,
  loops,
  fileBytes,
  frameBytes,
  totalBytes,
};
export type ReceiverRule = keyof typeof receiverRules;
export const receiverRuleNames = Object.keys(receiverRules) as [ReceiverRule, ...ReceiverRule[]];
