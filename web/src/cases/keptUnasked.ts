/** A file up to this size is kept with its case without asking, bytes. */
export const KEPT_UNASKED = 64_000_000
