import { jsonOf, type Carried } from '#core/messages/carried'
import { leavesIn, partsIn, timeSuggested, typeSuggested, type Part } from '#core/messages/parts'
import { previewOf } from '#core/messages/form'
import { quality } from '#core/tags/quality'
import { counted } from '#core/text/counted'
import { moment } from '#core/messages/moment'
import type { BranchPart, BrowsedNode, Children, Place, PlaceDetails, SearchPart } from '#shared/browse'
import { nextTurn } from '#pacing/turns'
import type { LinkBrowser } from '../driver'
import { formHeard, jsonIn, type HeardTopic } from './heardTopics'
import type { Listenings } from './listenings'

/** So long the first look waits for what comes, ms: brokers hand out what they kept at once. */
const firstLookMs = 1500
const mostShown = 5000
const perPart = 100

/**
 * Topics as places: each level is one, and the parts of a JSON payload lie inside its topic. What is shown is what was
 * heard so far; without an address listening begins, to the filter in the place of a member.
 */
export class TopicBrowser implements LinkBrowser {
  constructor(private listenings: Listenings) {}

  async children({ address, member }: Place): Promise<Children> {
    if (address === '') {
      const heard = await this.listenings.to(member || '#', firstLookMs)
      return this.shownLevels(heard.levels(''))
    }
    const heard = this.listenings.of(address)
    const inside = heard ? partsIn({ path: member, names: [], value: valueAt(heard, member) }).map((part) => memberNode(address, part)) : []
    const { nodes, more } = member === '' ? this.shownLevels(this.listenings.levels(address)) : { nodes: [], more: false }
    return { nodes: [...inside, ...nodes], more }
  }

  details(places: readonly Place[]): Promise<PlaceDetails[]> {
    this.listenings.stay()
    return Promise.resolve(places.map((place) => this.detailsOf(place)))
  }

  async *search(text: string, signal: AbortSignal): AsyncGenerator<SearchPart> {
    const words = text.toLowerCase()
    let looked = 0
    let found: SearchPart['found'] = []
    for (const heard of this.listenings.below('')) {
      looked++
      if (heard.topic.toLowerCase().includes(words)) found.push(foundOf(heard))
      if (found.length < perPart) continue
      yield { found, failed: [], looked, done: false }
      found = []
      await nextTurn()
      if (signal.aborted) return
    }
    yield { found, failed: [], looked, done: true }
  }

  async *branch({ address, member }: Place, signal: AbortSignal): AsyncGenerator<BranchPart> {
    const prefix = address
    let points: BranchPart['points'] = []
    let looked = 0
    for (const heard of this.listenings.below(prefix)) {
      looked++
      if (address !== '' && member !== '' && heard.topic !== address) continue
      points.push(...this.pointsOf(heard, prefix, address === '' ? '' : member))
      if (points.length < perPart) continue
      yield { points, failed: [], looked, done: false }
      points = []
      await nextTurn()
      if (signal.aborted) return
    }
    yield { points, failed: [], looked, done: true }
  }

  meaning() {
    return null
  }

  private pointsOf(heard: HeardTopic, prefix: string, member: string) {
    const below = heard.topic === prefix ? [] : heard.topic.slice(prefix === '' ? 0 : prefix.length + 1).split('/')
    const value = jsonIn(heard)
    return leavesIn(value)
      .filter(({ path }) => member === '' || path === member || path.startsWith(`${member}.`) || path.startsWith(`${member}[`))
      .map(({ path, names }) => ({ names: [...below, ...names], details: this.detailsOf({ address: heard.topic, member: path }) }))
      .filter(({ details }) => details.type !== null)
  }

  private shownLevels(levels: ReturnType<Listenings['levels']>): Children {
    const nodes = levels.slice(0, mostShown).map(({ name, topic, heard, hasBelow }): BrowsedNode => ({
      ...{ address: topic, member: '', name: name || '(no name)' },
      kind: heard ? 'variable' : 'object',
      opens: hasBelow || (heard !== undefined && partsIn({ path: '', names: [], value: jsonIn(heard) }).length > 0),
    }))
    return { nodes, more: levels.length > mostShown }
  }

  private detailsOf({ address, member }: Place): PlaceDetails {
    const heard = this.listenings.of(address)
    const known = { address, member, access: 'read' as const, unit: '', range: null, description: '', samplesEvery: null }
    if (!heard) return { ...known, ...nothingHeard, ...this.countBelow(address) }
    const whole = jsonIn(heard)
    const value = valueAt(heard, member)
    const time = timeSuggested(whole)
    const told = time === '' ? null : moment(valueOfPath(whole, time))
    const hasParts = typeof value === 'object' && value !== null
    return {
      ...known,
      ...(member === '' ? this.countBelow(address) : noCount),
      type: typeSuggested(value),
      typeName: `${formHeard(heard)}, ${counted(heard.bytes, 'byte')}, ${rateText(heard)}`,
      value:
        hasParts || value === undefined ? null : typeof value === 'bigint' ? String(value) : (value as string | number | boolean | null),
      text: member === '' ? previewOf(heard.last) : textOfPart(value),
      hasParts,
      quality: quality.Good,
      sourceTime: told ?? heard.at,
      options: { ...(member === '' ? {} : { path: member }), ...(time !== '' && time !== member ? { time } : {}) },
    }
  }

  private countBelow(prefix: string) {
    return { children: this.listenings.levels(prefix).length, childrenMore: false }
  }
}

const memberNode = (address: string, { path, names, opens }: Part): BrowsedNode => ({
  ...{ address, member: path, name: names.at(-1)!, kind: 'member', opens },
})

const foundOf = (heard: HeardTopic): SearchPart['found'][number] => {
  const names = heard.topic.split('/')
  return { address: heard.topic, member: '', name: names.at(-1)!, kind: 'variable', opens: typeof jsonIn(heard) === 'object', names }
}

const valueAt = (heard: HeardTopic, member: string): unknown => valueOfPath(jsonIn(heard), member)

/** By a path of ours, which names one place. */
const valueOfPath = (whole: unknown, path: string): unknown => {
  let at: Part = { path: '', names: [], value: whole, opens: true }
  while (at.path !== path) {
    const next = partsIn(at).find((part) => part.path === path || path.startsWith(`${part.path}.`) || path.startsWith(`${part.path}[`))
    if (!next) return undefined
    at = next
  }
  return at.value
}

const textOfPart = (value: unknown): string =>
  (typeof value === 'string' ? value : value === undefined ? '' : jsonOf(value as Carried)).slice(0, 200)

const rateText = ({ rate }: HeardTopic) => {
  const perSecond = rate.perSecond(performance.now())
  return perSecond < 0.05 ? 'rarely' : `${perSecond.toFixed(1)}/s`
}

const noCount = { children: null, childrenMore: false }
const nothingHeard = { type: null, typeName: '', value: null, text: '', hasParts: false, quality: quality.Good, sourceTime: 0 }
