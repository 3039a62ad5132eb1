/** Works at no more than `most` things at a time; results come in the order of the items. */
export const inParallel = async <T, R>(items: readonly T[], most: number, work: (item: T) => Promise<R>): Promise<R[]> => {
  const results: R[] = []
  let next = 0
  const worker = async () => {
    while (next < items.length) {
      const i = next++
      results[i] = await work(items[i]!)
    }
  }
  await Promise.all(Array.from({ length: Math.min(most, items.length) }, worker))
  return results
}
