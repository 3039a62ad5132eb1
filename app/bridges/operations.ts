import { requiredOf } from '#core/http/operation'
import type { HttpSettings, Operation } from '#core/http/settings'
import type { Field } from '#core/bridges/settings'
import type { Link } from '#shared/links/link'

/** The operations of a link to a web API; of any other link none. */
export const operationsOf = (links: readonly Link[], linkId: number): readonly Operation[] => {
  const link = links.find(({ id }) => id === linkId)
  return link?.kind === 'http' ? (link.settings as HttpSettings).operations : []
}

/** What the parameters that have to be given come from: as before where they were there already, else what goes by their name. */
export const givenFor = (operation: Operation | undefined, before: readonly Field[], names: readonly string[]): Field[] =>
  (operation ? requiredOf(operation) : []).map(
    (name) => before.find(({ into }) => into === name) ?? { into: name, from: names.includes(name) ? name : '' },
  )
