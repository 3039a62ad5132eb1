/** Rejects where the work takes longer; the work itself is left to end by its own time-outs. */
export const within = <T>(ms: number, work: Promise<T>, late = () => new Error(`no answer within ${ms} ms`)): Promise<T> => {
  let timer: NodeJS.Timeout
  const tooLate = new Promise<never>((_, reject) => (timer = setTimeout(() => reject(late()), ms)))
  return Promise.race([work, tooLate]).finally(() => clearTimeout(timer))
}
