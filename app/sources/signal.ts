import { scalarTypes } from '#core/tags/types'
import { duration } from '#core/text/duration'
import { signalSource, type SignalSource } from '#shared/sources/signal'
import SignalFields from '~/components/sources/SignalFields.vue'
import type { SourceFace } from './face'

const types = scalarTypes.filter((type) => !['string', 'datetime'].includes(type))

export const signalFace: SourceFace<SignalSource> = {
  fields: SignalFields,
  timing: null,
  beside: null,
  access: 'read',
  holder: 'The signal',
  blank: () => signalSource.parse({ kind: 'signal' }),
  limits: () => ({ key: 'signal', types, defaultType: 'float64', writable: false }),
  facts: ({ source }) => ({
    ...{ address: `signal: ${source.shape}`, full: `signal: ${source.shape}`, words: '', every: duration(source.every), through: null },
  }),
  next: ({ source }) => source,
  hasNext: () => false,
}
