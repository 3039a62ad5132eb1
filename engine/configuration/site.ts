import type { KnownCertificate } from '#shared/certificates'
import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'
import type { Tag } from '#shared/tags'

/** The whole configuration as the engine holds it. */
export interface Configuration {
  revision: number
  links: Map<number, Link>
  tags: Map<number, Tag>
  outlets: Map<number, Outlet>
  certificates: Map<number, KnownCertificate>
}

/** What became different from one configuration to the next. */
export interface Difference {
  links: { set: Link[]; removed: number[] }
  tags: { set: Tag[]; removed: number[] }
  outlets: { set: Outlet[]; removed: number[] }
  certificates: { set: KnownCertificate[]; removed: number[] }
}

interface Versioned {
  id: number
  revision: number
}

export const emptyConfiguration = (): Configuration => ({
  revision: 0,
  links: new Map(),
  tags: new Map(),
  outlets: new Map(),
  certificates: new Map(),
})

/** Rows carry the revision that last changed them, so equal revisions mean equal rows. */
export const differenceBetween = (before: Configuration, after: Configuration): Difference => ({
  links: compare(before.links, after.links),
  tags: compare(before.tags, after.tags),
  outlets: compare(before.outlets, after.outlets),
  certificates: compare(before.certificates, after.certificates),
})

const compare = <T extends Versioned>(before: Map<number, T>, after: Map<number, T>) => ({
  set: [...after.values()].filter((thing) => before.get(thing.id)?.revision !== thing.revision),
  removed: [...before.keys()].filter((id) => !after.has(id)),
})

/** Everything that is configured, as lists: how it comes from the database and lies on disk. */
export interface Things {
  links: Link[]
  tags: Tag[]
  outlets: Outlet[]
  certificates: KnownCertificate[]
}

export const thingsOf = ({ links, tags, outlets, certificates }: Configuration): Things => ({
  links: [...links.values()],
  tags: [...tags.values()],
  outlets: [...outlets.values()],
  certificates: [...certificates.values()],
})

/** Builds a configuration from its rows. */
export const configurationOf = (revision: number, things: Partial<Things>): Configuration => ({
  revision,
  links: byId(things.links ?? []),
  tags: byId(things.tags ?? []),
  outlets: byId(things.outlets ?? []),
  certificates: byId(things.certificates ?? []),
})

const byId = <T extends Versioned>(things: T[]) => new Map(things.map((thing) => [thing.id, thing]))
