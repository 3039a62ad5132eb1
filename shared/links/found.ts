import type { Found } from '#core/opcua/offers'

/** What the far side answers when it is asked which ways in there are, by the kinds of links that can ask. */
export interface FoundBy {
  opcua: Found
}
export type AnyFound = FoundBy[keyof FoundBy]
