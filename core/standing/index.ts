export { circleThrough, type OrderPlace } from './circle.ts';
export { type Fits, fitsSchema, type Look, lookAt, type StandingOrder, standingOrderSchema } from './order.ts';
