/** Builds the page where its sources changed since. @returns whether it was built */
export function buildPage(): boolean;
