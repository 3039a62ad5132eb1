import type { SourceKind, TagSource } from '#shared/sources/registry'
import type { AnyFace, Links, ShownTag, SourceFace } from './face'
import { constantFace } from './constant'
import { formulaFace } from './formula'
import { healthFace } from './health'
import { memoryFace } from './memory'
import { pointFace } from './point'
import { propertyFace } from './property'
import { recordFace } from './record'
import { signalFace } from './signal'

/** The face of every kind of source. A new one adds its entry here. */
const faces: { [K in SourceKind]: SourceFace<TagSource & { kind: K }> } = {
  point: pointFace,
  memory: memoryFace,
  formula: formulaFace,
  constant: constantFace,
  signal: signalFace,
  health: healthFace,
  record: recordFace,
  property: propertyFace,
}

/** Face and source go together by the kind; TypeScript cannot follow that through a variable. */
export const faceOf = (kind: SourceKind) => faces[kind] as unknown as AnyFace

export const factsOf = (tag: ShownTag, links: Links) => faceOf(tag.source.kind).facts(tag, links)
