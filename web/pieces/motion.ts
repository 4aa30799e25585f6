/** Whether a person asked their system for less motion: nothing moves then before it is asked to. */
export const asksForLessMotion = (): boolean => matchMedia('(prefers-reduced-motion: reduce)').matches;
