/** A test whether all words of a filter stand in what a thing goes by, whatever their order and capitals. */
export const fitting = <T>(filter: string | null, textOf: (thing: T) => string) => {
  const words = (filter ?? '').toLowerCase().split(/\s+/).filter(Boolean)
  return (thing: T) => {
    const text = textOf(thing).toLowerCase()
    return words.every((word) => text.includes(word))
  }
}
