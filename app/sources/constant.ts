import { dataTypes } from '#core/tags/types'
import type { ConstantSource } from '#shared/sources/constant'
import ConstantFields from '~/components/sources/ConstantFields.vue'
import type { SourceFace } from './face'

export const constantFace: SourceFace<ConstantSource> = {
  fields: ConstantFields,
  timing: null,
  beside: null,
  access: 'read',
  holder: 'The tag',
  blank: () => ({ kind: 'constant', value: 0 }),
  limits: () => ({ key: 'constant', types: dataTypes, defaultType: null, writable: false }),
  facts: () => ({ address: 'constant', full: 'constant', words: '', every: '—', through: null }),
  next: ({ source }) => source,
  hasNext: () => false,
}
