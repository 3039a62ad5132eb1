import { madeText } from '#core/equipment/words'
import type { PropertySource } from '#shared/sources/property'
import PropertyFields from '~/components/sources/PropertyFields.vue'
import type { SourceFace } from './face'

export const propertyFace: SourceFace<PropertySource> = {
  fields: PropertyFields,
  timing: null,
  beside: null,
  access: 'read',
  holder: 'The equipment',
  blank: () => ({ kind: 'property', equipmentId: 0, property: '', made: { kind: 'constant', value: null } }),
  limits: ({ type }) => ({ key: 'property', types: [type], defaultType: null, writable: false }),
  facts: ({ source }) => ({
    ...{ address: madeText(source.made), full: madeText(source.made), words: '', every: '—' },
    through: { title: 'equipment', path: `/equipment?at=${source.equipmentId}` },
  }),
  next: ({ source }) => source,
  hasNext: () => false,
}
