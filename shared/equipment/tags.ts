import type { PropertyTag } from '#core/equipment/made'
import { plainValue, type TagDraft } from '../tags'

/** What of a tag its equipment decides. */
export const decidedFields = ({ path, type, unit, description, limits, equipmentId, property, made }: PropertyTag) => ({
  ...{ path, type, unit, description, limits },
  source: { kind: 'property', equipmentId, property, made } satisfies TagDraft['source'],
})

/** The tag of a property, new. */
export const tagOfProperty = (tag: PropertyTag): TagDraft => ({ ...plainValue, access: 'read', ...decidedFields(tag) })
