import type { DataType } from '../tags/types'

/** What a person looks up while typing an address; made from the tables that the code itself goes by. */
export interface Reference {
  notation: { form: string; about: string }[]
  /** The kinds of places that there are, with what each holds. */
  places: { name: string; about: string; types: readonly DataType[]; usual: DataType; writable: boolean }[]
  limits: { what: string; is: string }[]
  errors: { code: string; words: string; next: string }[]
}
