import type { Condition } from '../condition.ts';
import type { StandingOrders } from '../standing/standing.ts';
import type { Workshop } from '../workshop.ts';

/** What the routes stand on. */
export interface House extends Workshop {
  version: string;
  standing: StandingOrders;
  condition: Condition;
  /** The built web page's folder. */
  page: string;
}
