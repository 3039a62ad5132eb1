import { dataTypes } from '#core/tags/types'
import type { MemorySource } from '#shared/sources/memory'
import MemoryFields from '~/components/sources/MemoryFields.vue'
import type { SourceFace } from './face'

export const memoryFace: SourceFace<MemorySource> = {
  fields: MemoryFields,
  timing: null,
  beside: null,
  access: 'readwrite',
  holder: 'The tag',
  blank: () => ({ kind: 'memory', start: null, low: null, high: null }),
  limits: () => ({ key: 'memory', types: dataTypes, defaultType: null, writable: true }),
  facts: () => ({ address: 'memory', full: 'memory', words: '', every: '—', through: null }),
  next: ({ source }) => source,
  hasNext: () => false,
}
