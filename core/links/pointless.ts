import type { Protocol } from './protocol'

/** What is the same of all links over which rows or lines go, and which have no points that a tag could read. */
export const pointless = (what: string) =>
  ({
    frames: null,
    interval: () => null,
    describe: () => ({ ok: false, problem: `${what} has no points that a tag could read; bridges send to it.` }),
    isPassing: () => false,
    problems: () => [{ field: 'address', message: `${what} has no points that a tag could read; bridges send to it.` }],
    spot: () => null,
    load: () => ({ parts: [], busy: null, costly: [] }),
    next: () => null,
    onUnit: () => null,
    shortAddress: (address) => address,
    reference: () => ({ notation: [], places: [], limits: [], errors: [] }),
    words: null,
    optionsText: () => '',
    leanOptions: (options) => options,
    columns: [],
    optionsFor: (_type, options) => options,
  }) satisfies Partial<Protocol>

/** What such a link declares. */
export const noPoints = { browse: false, read: false, watch: false, write: false, publish: false, messages: false, tap: false }
