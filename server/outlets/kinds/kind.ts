import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'
import type { FieldMessage } from '#shared/faults'

/** A link, as outlets may name it. */
export type KnownLink = Pick<Link, 'id' | 'name' | 'kind'>

/** What the server does for a kind of outlet when one is saved. */
export interface OutletSaving<S> {
  /** What only shows beside the other outlets, or by looking closer than its contract does. */
  problems(settings: S, others: readonly Outlet[], links: readonly KnownLink[]): FieldMessage[]
  /** Settings ready for the database; secrets that were kept come from what was saved before. */
  stored(settings: S, saved: unknown): Promise<S>
}
