import { z } from 'zod'
import type { FieldMessage } from '../faults'
import { shapingProblems } from '../shapingProblems'
import type { Drawn, LinkLookup, SourceRules } from './source'
import { constant } from './constant'
import { formula } from './formula'
import { health } from './health'
import { memory } from './memory'
import { point } from './point'
import { property } from './property'
import { record } from './record'
import { signal } from './signal'
import type { TagDraft } from '../tags'

/** Every kind of source that a tag may have. A new one adds its line here. */
const rules = { point, memory, formula, constant, signal, health, record, property } as const

export type SourceKind = keyof typeof rules
type SourceOf<K extends SourceKind> = (typeof rules)[K] extends SourceRules<infer S> ? S : never
export type TagSource = { [K in SourceKind]: SourceOf<K> }[SourceKind]
export const sourceKinds = Object.keys(rules) as [SourceKind, ...SourceKind[]]

/** Rules and source go together by the kind; TypeScript cannot follow that through a variable. */
export const rulesOf = (kind: SourceKind) => rules[kind] as unknown as SourceRules<TagSource>

export const sourceContract = z.discriminatedUnion(
  'kind',
  Object.values(rules).map(({ contract }) => contract) as never,
) as unknown as z.ZodType<TagSource>

/** A tag whose source is of this kind. */
export const isFrom = <K extends SourceKind, T extends { source: TagSource }>(kind: K, tag: T): tag is T & { source: SourceOf<K> } =>
  tag.source.kind === kind

/** What only shows in the light of other things: of the link, or of the tag's type. */
export const tagProblems = (tag: TagDraft, links: LinkLookup): FieldMessage[] => {
  const rules = rulesOf(tag.source.kind)
  const problems = rules.problems(tag, links)
  // most tags choose nothing of the kind, and tables have tens of thousands of them
  const isPlain =
    tag.odd === null &&
    tag.reports === null &&
    tag.names.length === 0 &&
    tag.limits.length === 0 &&
    tag.rawUnit === '' &&
    (tag.scaling === null || rules.isScaled)
  return isPlain ? problems : [...unshapable(tag, rules), ...shapingProblems(tag), ...problems]
}

/** What values of some sources do not have. */
const unshapable = ({ scaling, odd, rawUnit, reports }: TagDraft, { isScaled, isDamped }: SourceRules<TagSource>): FieldMessage[] => {
  const not = (path: string, has: boolean, message: string) => (has ? [{ path, message }] : [])
  return [
    ...not('scaling', !isScaled && scaling !== null, 'Values of this source are not scaled.'),
    ...not('odd', !isScaled && odd !== null, 'Values of this source are never odd.'),
    ...not('rawUnit', !isScaled && rawUnit !== '', 'Values of this source are not converted.'),
    ...not('reports', !isDamped && reports !== null, 'Each value of this source is passed on.'),
  ]
}

/** The draft as it is stored. Asked only where nothing is wrong with it. */
export const settled = <T extends TagDraft>(tag: T, links: LinkLookup): T =>
  rulesOf(tag.source.kind).settled(tag as Drawn<TagSource>, links) as T

/** The tags that a source reads, by their paths. */
export const readPaths = (source: TagSource): string[] => rulesOf(source.kind).paths?.of(source) ?? []

/** Kinds of sources that read other tags. */
export const readingKinds = sourceKinds.filter((kind) => rulesOf(kind).paths !== undefined)

/** Whether a value that came from one source says the same about the other. */
export const isSameSource = (a: TagSource, b: TagSource): boolean => a === b || (a.kind === b.kind && rulesOf(a.kind).isSame(a, b))
