import type { SourceKind, TagSource } from '#shared/sources/registry'
import type { SourceStatus } from '#shared/status'
import type { LinkRunner } from '../links/linkRunner'
import type { ConstantTags } from './constantTags'
import type { FormulaTags } from './formulaTags'
import type { HealthTags } from './healthTags'
import type { MemoryTags } from './memoryTags'
import type { SignalTags } from './signalTags'
import type { PropertyTags } from '../equipment/propertyTags'
import type { RecordSets } from '../records/recordSets'
import type { RunningSource } from './source'

interface Parts {
  link(id: number): LinkRunner | undefined
  memory: MemoryTags
  formulas: FormulaTags
  constants: ConstantTags
  signals: SignalTags
  health: HealthTags
  records: Pick<RecordSets, 'get'>
  properties: PropertyTags
}

/** What tags of one running source have in common. */
export type SourceKey = number | string

type Finders = {
  [K in SourceKind]: {
    key(source: TagSource & { kind: K }): SourceKey
    running(source: TagSource & { kind: K }, parts: Parts): RunningSource | undefined
  }
}

/** Tags of one set. */
export const recordKey = (id: number): SourceKey => `record set ${id}`

/** The running source of every kind. A new kind adds its entry here. */
const finders: Finders = {
  point: { key: ({ linkId }) => linkId, running: ({ linkId }, { link }) => link(linkId) },
  memory: { key: () => 'memory', running: (_, { memory }) => memory },
  formula: { key: () => 'formula', running: (_, { formulas }) => formulas },
  constant: { key: () => 'constant', running: (_, { constants }) => constants },
  record: { key: ({ recordSetId }) => recordKey(recordSetId), running: ({ recordSetId }, { records }) => records.get(recordSetId) },
  property: { key: () => 'equipment', running: (_, { properties }) => properties },
  signal: { key: () => 'signal', running: (_, { signals }) => signals },
  health: { key: () => 'health', running: (_, { health }) => health },
}
const finderOf = (kind: SourceKind) => finders[kind] as unknown as Finders['memory']

/** From what a tag names as its source to what brings its values. */
export class Sources {
  constructor(private parts: Parts) {}

  of(source: TagSource): RunningSource | undefined {
    return finderOf(source.kind).running(source as never, this.parts)
  }

  /** How those are that are no links. */
  besideLinks(): SourceStatus[] {
    const { memory, formulas, constants, signals, health, properties } = this.parts
    return [
      { kind: 'memory', ...memory.counts() },
      { kind: 'formula', ...formulas.counts() },
      { kind: 'constant', ...constants.counts() },
      { kind: 'signal', ...signals.counts() },
      { kind: 'health', ...health.counts() },
      { kind: 'property', ...properties.counts() },
    ]
  }
}

/** Tags with the same key have the same running source; of a link it is the link's id. */
export const sourceKey = (source: TagSource): SourceKey => finderOf(source.kind).key(source as never)
