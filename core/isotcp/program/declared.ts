import type { ValueName } from '../../tags/valueNames'

/** What a file of a program declares, before anybody asks where it lies. */

export type TypeRef =
  /** A type of the language, or one that the file declares; `length` of texts, `names` of enumerations. */
  | { kind: 'named'; name: string; length: number | null; names?: readonly ValueName[] }
  | { kind: 'array'; ranges: readonly (readonly [from: number, to: number])[]; of: TypeRef }
  | { kind: 'struct'; members: readonly Declared[] }

export interface Declared {
  name: string
  type: TypeRef
  /** An address of its own, as it is written; null: it lies after the one before. */
  at: string | null
  comment: string
  /** In the file, from 1. */
  line: number
}

/** Variables that lie one after the other. */
export interface Group {
  name: string
  variables: Declared[]
}

export interface Program {
  /** Types that the file declares, by their names in capitals. */
  types: Map<string, TypeRef>
  groups: Group[]
  problems: { line: number; text: string }[]
}
