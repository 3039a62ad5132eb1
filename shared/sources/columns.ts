import type { Column } from '#core/formats/column'
import type { LinkLookup } from './source'

/** What columns of tags look up: links by their id and by their name. */
export interface LinkNames {
  linkOf: LinkLookup
  /** Undefined where there is none of this name, whatever its case. */
  idOf(name: string): number | undefined
  nameOf(id: number): string | undefined
}

export type SourceColumn<S> = Column<S, LinkNames>
