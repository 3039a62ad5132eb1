/** Waits for a condition, asking again shortly, and less often the longer it takes; fails with what was last seen. */
export const until = async <T>(look: () => T | Promise<T>, isRight: (seen: T) => boolean = Boolean, seconds = 45): Promise<T> => {
  const end = Date.now() + seconds * 1000
  let pause = 20
  for (;;) {
    const seen = await look()
    if (isRight(seen)) return seen
    if (Date.now() > end)
      throw new Error(`after ${seconds} s still: ${JSON.stringify(seen, (_, v) => (typeof v === 'bigint' ? String(v) : v))}`)
    await new Promise((resolve) => setTimeout(resolve, pause))
    pause = Math.min(100, pause * 1.1)
  }
}
