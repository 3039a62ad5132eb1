import type { LinkKind } from '#core/links/registry'
import type { Found } from '#core/opcua/offers'

/** What the far side answers when it is asked which ways in there are, by the kinds of links that can ask. */
export interface FoundBy extends Partial<Record<LinkKind, object>> {
  opcua: Found
}
export type AnyFound = FoundBy[keyof FoundBy & 'opcua']
