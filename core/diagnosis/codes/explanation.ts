/** What a code means, in plain words. */
export interface Explanation {
  /** Which layer says it: the name of the standard. */
  family: string
  /** In the notations in which it is met. */
  code: string
  name: string
  words: string
  /** What it mostly comes of. */
  causes: string[]
  /** What to look at, in order. */
  checks: string[]
}

/** What was pasted, taken apart. */
export interface Pasted {
  text: string
  /** Words as they stand there, letters, digits and underscores. */
  words: ReadonlySet<string>
  /** Numbers in it, hexadecimal ones and negative ones included, as 32 bits without a sign. */
  numbers: readonly number[]
  /** Nothing but one code. */
  isAlone: boolean
}

export interface CodeFamily {
  title: string
  find(pasted: Pasted): Explanation[]
}

/** A line of a table: name, words, what it comes of, what to look at. */
export type Row = readonly [name: string, words: string, causes?: readonly string[], checks?: readonly string[]]

export const explained = (family: string, code: string, [name, words, causes = [], checks = []]: Row): Explanation => ({
  ...{ family, code, name, words },
  causes: [...causes],
  checks: [...checks],
})

export const hex = (code: number, digits: number) => `0x${(code >>> 0).toString(16).toUpperCase().padStart(digits, '0')}`

/** A small number means something only alone, or beside a word of its family. */
export const isMeant = ({ isAlone, text }: Pasted, beside: RegExp) => isAlone || beside.test(text)

/** A family of numbers, found alone or beside one of its words, and by its names. */
export const numbered = (
  title: string,
  beside: RegExp,
  rows: Readonly<Record<number, Row>>,
  codeOf: (code: number) => string,
): CodeFamily => ({
  title,
  find: (pasted) =>
    Object.entries(rows).flatMap(([key, row]) => {
      const code = Number(key)
      const isNamed = pasted.words.has(row[0]) || (row[0].includes(' ') && pasted.text.toLowerCase().includes(row[0].toLowerCase()))
      const isThere = isNamed || (pasted.numbers.includes(code) && isMeant(pasted, beside))
      return isThere ? [explained(title, codeOf(code), row)] : []
    }),
})
