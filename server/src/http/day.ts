/** Today, as an ISO date. */
export const today = (): string => new Date().toISOString().slice(0, 10)
