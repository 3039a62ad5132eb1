import { readStored, type Subject, type ThingOf } from './subjects'

/** A row that does not keep its contract: written by another version, or by hand. */
export class UnreadableRow extends Error {
  constructor(
    readonly thing: Subject,
    readonly id: number,
    readonly named: string,
    readonly problem: string,
  ) {
    super(`${thing} ${id} “${named}” cannot be read: ${problem}`)
  }
}

/** From a row to the thing that the rest of the program speaks of, by its contract. */
export const thingOf = <S extends Subject>(subject: S, row: unknown): ThingOf[S] => {
  const read = readStored(subject, row)
  if (read.ok) return read.thing
  throw new UnreadableRow(subject, read.id, read.name, read.problem)
}

/** Of many rows, those that can be read: one that cannot be must not hide the others. The engine's status names it. */
export const readable = <R, T>(rows: readonly R[], read: (row: R) => T): T[] =>
  rows.flatMap((row) => {
    try {
      return [read(row)]
    } catch (error) {
      if (error instanceof UnreadableRow) return []
      throw error
    }
  })

/** Of many rows, the things that can be read. */
export const thingsOf = <S extends Subject>(subject: S, rows: readonly unknown[]): ThingOf[S][] =>
  readable(rows, (row) => thingOf(subject, row))
