import { scalarTypes } from '#core/tags/types'
import { healthFactOf } from '#core/statistics/health'
import { healthSource, type HealthSource } from '#shared/sources/health'
import HealthFields from '~/components/sources/HealthFields.vue'
import type { SourceFace } from './face'

const types = scalarTypes.filter((type) => type !== 'datetime')

const placeText = ({ name, part, fact }: HealthSource) => `${name}${part ? `, ${part}` : ''}: ${fact}`

export const healthFace: SourceFace<HealthSource> = {
  fields: HealthFields,
  timing: null,
  beside: null,
  access: 'read',
  holder: 'What is measured here',
  blank: () => healthSource.parse({ kind: 'health' }),
  limits: ({ source }) => ({ key: `health ${source.fact}`, types, defaultType: healthFactOf(source.fact).type, writable: false }),
  facts: ({ source }) => ({
    ...{ address: placeText(source), full: `health of the ${source.of} ${placeText(source)}`, words: '', every: '1 s', through: null },
  }),
  next: ({ source }) => source,
  hasNext: () => false,
}
