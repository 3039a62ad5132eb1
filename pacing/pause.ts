const lookMs = 100

/** A pause of so many milliseconds, that ends as soon as there is nothing to wait for any more. */
export const pauseUnless = async (ms: number, isOver: () => boolean): Promise<void> => {
  for (let waited = 0; waited < ms && !isOver(); waited += lookMs) await new Promise((resolve) => setTimeout(resolve, Math.min(lookMs, ms)))
}
