import type { Spot, YamlText } from '#core/formats/yaml/read'
import { counted } from '#core/text/counted'
import { withKept } from '#shared/secrets'
import { keyOf, textFormOf, type DraftOf, type Subject, type ThingOf } from '../subjects'
import { isRecord, type Identified, type Stored } from '../subjects/definition'
import { draftOf, type Change } from './changes'
import { headContract, sections, textForm, type Head, type Part } from './document'
import { isSame, strangers } from './shape'
import { shapeOfSubject, thingOfText } from './thingText'
import { valueAt, withValue, type Way } from './values'
import type { Things } from './write'

/** What is wrong in a text, and where. */
export interface Misfit extends Spot {
  /** As in `links.Berth meters.settings.port`. */
  path: string
  message: string
}

/** A secret that the text names, that was not given and that the site does not hold at that place. */
export interface MissingSecret extends Spot {
  secret: string
  path: string
}

export interface SitePlan {
  head: Head | null
  changes: Change[]
  /** How many things of the text are as they are there. */
  same: number
  problems: Misfit[]
  missing: MissingSecret[]
}

/** What a plan is made with. */
export interface Given {
  secrets: ReadonlyMap<string, string>
  /** Whether a secret that was given is the one that is kept. */
  isKept(kept: unknown, given: string): boolean
  /** A draft as it will be stored, and what is wrong with it in the light of everything else. @param after all things as they will be */
  settled<S extends Subject>(
    subject: S,
    draft: DraftOf[S],
    before: ThingOf[S] | undefined,
    after: Things,
  ): { draft: DraftOf[S]; problems: { path: string; message: string }[] }
}

/** A thing of the text, read. */
interface Drafted {
  subject: Subject
  name: string
  draft: DraftOf[Subject]
  /** With what is kept in the place of secrets that were given and are the same. */
  compared: DraftOf[Subject]
  before: ThingOf[Subject] | undefined
  id: number
}

/** Ids of things that are still to be made; no real one comes near. */
const firstNewId = 2_000_000_000
const mostProblems = 200

/** Works out what a text comes to at a site as it is now. Nothing is changed by it. */
export class SitePlanner {
  private problems: Misfit[] = []
  private missing: MissingSecret[] = []
  private newId = firstNewId
  private ids = new Map<Subject, Map<string, number>>()
  private there: Map<Subject, Map<string, ThingOf[Subject]>>
  private linkNames: Map<number, string>

  constructor(
    private text: YamlText,
    site: Things,
    private given: Given,
  ) {
    this.there = new Map(sections.map(({ subject }) => [subject, byName(subject, site[subject])]))
    this.linkNames = new Map(site.link.map(({ id, name }) => [id, name]))
  }

  plan(): SitePlan {
    const head = this.head()
    const lists = this.lists()
    for (const { subject } of sections) this.giveIds(subject, lists.get(subject))
    const drafted = [...lists].flatMap(([subject, list]) =>
      Object.entries(list).flatMap(([name, fields]) => this.drafted(subject, name, fields) ?? []),
    )
    const removed = [...lists].flatMap(([subject, list]) => this.removed(subject, list, head?.part))
    const after = this.after(drafted, removed)
    this.refuseLeftBehind(removed, drafted)
    const changes = drafted.flatMap((one) => this.change(one, after) ?? [])
    return {
      head,
      changes: [...changes, ...removed],
      same: drafted.length - changes.length,
      problems: this.problems,
      missing: this.missing,
    }
  }

  private head(): Head | null {
    const value = isRecord(this.text.value) ? this.text.value : {}
    if (typeof value.conduit === 'number' && value.conduit > textForm) {
      this.refuse(['conduit'], `This text is of form ${value.conduit}, of a newer version; this one reads up to ${textForm}.`)
      return null
    }
    const head = headContract.safeParse(value)
    for (const { path, message } of head.error?.issues ?? []) this.refuse(path as Way, message)
    const known = ['conduit', 'site', 'part', ...sections.map(({ section }) => section)]
    for (const name of Object.keys(value)) if (!known.includes(name)) this.refuse([name], strangerText(name, known))
    const link = head.data?.part?.link
    if (link !== undefined && !this.there.get('link')!.has(link)) this.refuse(['part', 'link'], `There is no link “${link}” at the site.`)
    return head.data ?? null
  }

  private lists(): Map<Subject, Stored> {
    const lists = new Map<Subject, Stored>()
    for (const { subject, section } of sections) {
      const list = isRecord(this.text.value) ? this.text.value[section] : undefined
      if (list === undefined) continue
      if (list === null || isRecord(list)) lists.set(subject, list ?? {})
      else this.refuse([section], `“${section}” has fields by ${textFormOf(subject).key}.`)
    }
    return lists
  }

  /** Everything that may be referred to has an id; what is there keeps its own. */
  private giveIds(subject: Subject, list: Stored | undefined) {
    const known = new Map<string, number>()
    for (const [name, { id }] of this.there.get(subject)!) if (!list || Object.hasOwn(list, name)) known.set(name, id)
    for (const name of Object.keys(list ?? {})) if (!known.has(name)) known.set(name, this.newId++)
    this.ids.set(subject, known)
  }

  private drafted(subject: Subject, name: string, fields: unknown): Drafted | null {
    const idOf = (other: Subject, wanted: string) => this.ids.get(other)?.get(wanted)
    const found = thingOfText(subject, name, fields, { idOf, secrets: this.given.secrets })
    const refuse = (path: Way, message: string) => this.refuse(wayTo(subject, name, path), message)
    for (const { path, message } of found.problems) refuse(path, message)
    for (const { path, known } of strangers(found.thing, shapeOfSubject(subject))) refuse(path, strangerText(String(path.at(-1)), known))
    const before = this.there.get(subject)!.get(name)
    const hasSecrets = found.named.size > 0
    const draft = this.parsed(
      subject,
      name,
      hasSecrets ? this.withKeptSecrets(subject, name, found.thing, before, found.named) : found.thing,
    )
    if (!draft || found.problems.length > 0) return null
    const compared = hasSecrets ? this.withSameSecrets(draft, before, found.named) : draft
    return { subject, name, draft, compared, before, id: this.ids.get(subject)!.get(name)! }
  }

  /** By the contract; numbers and words in the place of text need no quotes. */
  private parsed(subject: Subject, name: string, raw: Stored): DraftOf[Subject] | null {
    const { contract } = textFormOf(subject)
    const first = contract.safeParse(raw)
    if (first.success) return first.data as DraftOf[Subject]
    const mended = first.error.issues.reduce<unknown>((whole, issue) => {
      const path = issue.path as Way
      const isText = issue.code === 'invalid_type' && issue.expected === 'string' && !isRecord(valueAt(raw, path))
      const written = isText ? this.text.writtenAt(wayTo(subject, name, path)) : null
      return written === null ? whole : withValue(whole, path, written)
    }, raw)
    const parsed = mended === raw ? first : contract.safeParse(mended)
    if (parsed.success) return parsed.data as DraftOf[Subject]
    for (const { path, message } of parsed.error.issues) this.refuse(wayTo(subject, name, path as Way), message)
    return null
  }

  /** What was not given is what is kept; what is missing is asked for. */
  private withKeptSecrets(subject: Subject, name: string, raw: Stored, before: unknown, named: ReadonlyMap<string, string>): Stored {
    const known = withKept(raw, before ?? null)
    for (const [path, secret] of named) {
      const steps = path.split('.')
      const found = valueAt(known, steps)
      if (!isRecord(found) || !('kept' in found)) continue
      const way = wayTo(subject, name, steps)
      this.missing.push({ secret, path: way.join('.'), ...this.text.spotOf(way) })
    }
    return known
  }

  private withSameSecrets(draft: DraftOf[Subject], before: unknown, named: ReadonlyMap<string, string>): DraftOf[Subject] {
    const steps = [...named.keys()].map((path) => path.split('.'))
    const saved = withKept(
      steps.reduce<unknown>((whole, way) => withValue(whole, way, { kept: true }), draft),
      before ?? null,
    )
    return steps.reduce<unknown>((whole, way) => {
      const [given, kept] = [valueAt(draft, way), valueAt(saved, way)]
      const isGiven = isRecord(given) && typeof given.plain === 'string'
      return isGiven && this.given.isKept(kept, given.plain as string) ? withValue(whole, way, kept) : whole
    }, draft) as DraftOf[Subject]
  }

  private removed(subject: Subject, list: Stored, part: Part | undefined): Change[] {
    const gone = [...this.there.get(subject)!].filter(([name, thing]) => !Object.hasOwn(list, name) && this.isCovered(subject, thing, part))
    return gone.map(([name, thing]) => ({ subject, name, what: 'removed', thing }))
  }

  /** Whether the text speaks of this thing, also by not naming it. */
  private isCovered(subject: Subject, thing: ThingOf[Subject], part: Part | undefined): boolean {
    if (!part) return true
    if (subject !== 'tag') return false
    const { path, source } = thing as ThingOf['tag']
    if (part.folder !== undefined && !path.startsWith(`${part.folder}/`)) return false
    return part.link === undefined || (source.kind === 'point' && this.linkNames.get(source.linkId) === part.link)
  }

  /** What goes must not be referred to by what the text leaves as it is. */
  private refuseLeftBehind(removed: readonly Change[], drafted: readonly Drafted[]) {
    const touched = new Set([
      ...drafted.map(({ subject, name }) => `${subject} ${name}`),
      ...removed.map(({ subject, name }) => `${subject} ${name}`),
    ])
    for (const [subject, things] of this.there) {
      const gone = removed.filter((change) => textFormOf(subject).needs.includes(change.subject))
      if (gone.length === 0) continue
      const staying = [...things].filter(([name]) => !touched.has(`${subject} ${name}`)).map(([, thing]) => thing)
      for (const { subject: needed, name } of gone) {
        const id = this.there.get(needed)!.get(name)!.id
        const count = staying.filter((thing) => refersTo(thing, `${needed}Id`, id)).length
        if (count > 0)
          this.refuse(
            [textFormOf(needed).section],
            `The ${needed} “${name}” is not here, and ${counted(count, subject)} of the site still need it.`,
          )
      }
    }
  }

  private after(drafted: readonly Drafted[], removed: readonly Change[]): Things {
    const after = new Map([...this.there].map(([subject, things]) => [subject, new Map(things)]))
    for (const { subject, name } of removed) after.get(subject)!.delete(name)
    for (const { subject, name, draft, id, before } of drafted)
      after.get(subject)!.set(name, { ...draft, id, revision: before?.revision ?? 0 } as ThingOf[Subject])
    return Object.fromEntries([...after].map(([subject, things]) => [subject, [...things.values()]])) as unknown as Things
  }

  private change({ subject, name, draft, compared, before, id }: Drafted, after: Things): Change | null {
    const settled = this.given.settled(subject, draft as never, before as never, after)
    for (const { path, message } of settled.problems) this.refuse(wayTo(subject, name, path.split('.')), message)
    if (!before) return { subject, name, what: 'made', draft: settled.draft, id }
    const last = compared === draft ? settled.draft : compared
    return isSame(draftOf(before), last) ? null : { subject, name, what: 'changed', thing: before, draft: settled.draft, compared: last }
  }

  private refuse(path: Way, message: string) {
    if (this.problems.length < mostProblems) this.problems.push({ ...this.text.spotOf(path), path: path.join('.'), message })
  }
}

const refersTo = (value: unknown, field: string, id: number): boolean => {
  if (Array.isArray(value)) return value.some((part) => refersTo(part, field, id))
  return isRecord(value) && (value[field] === id || Object.values(value).some((part) => refersTo(part, field, id)))
}

const byName = (subject: Subject, things: readonly (ThingOf[Subject] & Identified)[]) =>
  new Map(things.map((thing) => [keyOf(subject, thing as never), thing]))

/** To a field of a thing, as the text has it. */
const wayTo = (subject: Subject, name: string, path: Way): (string | number)[] => [
  textFormOf(subject).section,
  name,
  ...path.map((step) => (typeof step === 'string' && step.endsWith('Id') ? step.slice(0, -2) : step)),
]

const strangerText = (name: string, known: readonly string[]) => `“${name}” means nothing here. What may stand here: ${known.join(', ')}.`
