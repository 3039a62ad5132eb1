import type { z } from 'zod'
import { visible } from '#core/text/visible'

export type Stored = Record<string, unknown>
export const isRecord = (value: unknown): value is Stored => typeof value === 'object' && value !== null && !Array.isArray(value)

/** What makes a thing one of the configuration, beside its contract. */
export interface Identified {
  id: number
  /** The site revision that last changed it. */
  revision: number
}

/**
 * One kind of thing that is configured: where it is stored, what it has to be, and what it refers to.
 * Writing, revisions, taking back, the engine's feed and its kept copy go by this and know nothing else of it.
 *
 * @example
 * const lamp = subject<LampTable>()({ contract: lampContract, nameOf: ({ name }) => name, needs: ['link'] })
 */
export interface Definition<T extends object, Table> {
  contract: z.ZodType<T>
  nameOf(thing: NoInfer<T>): string
  /** How it stands in a text of the configuration: under which heading, and the field that each is named by there. */
  text: { section: string; key: keyof NoInfer<T> & string }
  /** Subjects that it refers to: they are made before it, and removed after it. */
  needs: readonly string[]
  /** A thing, or some of its fields, as its table has them; absent: by the same names. */
  toColumns(fields: Partial<NoInfer<T>>): Stored
  /** A row, or what a file or a revision keeps in an older form, as the contract has it today. A form once stored is never forgotten. */
  broughtUp(stored: Stored): Stored
  /** Only for its type. */
  table?: Table
}

type Parts<T extends object, Table> = Omit<Definition<T, Table>, 'toColumns' | 'broughtUp' | 'table'> &
  Partial<Pick<Definition<T, Table>, 'toColumns' | 'broughtUp'>>

/** Defines a subject by the row type of its table, which is named as the subject is. */
export const subject =
  <Table>() =>
  <T extends object>(parts: Parts<T, Table>): Definition<T, Table> => ({
    toColumns: (fields) => ({ ...fields }),
    broughtUp: (stored) => stored,
    ...parts,
  })

export const byName = ({ name }: { name: string }) => name

/** Earlier versions took names that show less than they hold. */
export const withVisible = (stored: Stored, field: string): Stored =>
  typeof stored[field] === 'string' ? { ...stored, [field]: visible(stored[field]) } : stored
