import { answering, AnswerProblem, type Answering } from '#core/endpoints/answer'
import { readGiven, type Raw } from '#core/endpoints/given'
import { parametersOf, type Endpoint } from '#core/endpoints/settings'
import { factsFor, readLookUp } from '#core/endpoints/statement'
import { fault, isFault } from '#core/faults/catalogue'
import type { RunOutcome } from '#core/bridges/run'
import { jsonOf, textOf, type Carried } from '#core/messages/carried'
import { isoText } from '#core/messages/carried'
import { qualityName } from '#core/tags/quality'
import { parseJson } from '#core/messages/json'
import { within } from '#pacing/within'
import type { Arrival, Keeping } from '../../arrivals/arrival'
import type { LinkRunner } from '../../links/linkRunner'
import type { TagTable } from '../../table/tagTable'
import type { Asked, Handler } from './asked'
import { jsonBody, readBody } from './body'
import { json, problem, type Reply } from './reply'
import type { TagShelf } from './tagShelf'

export interface EndpointAround {
  shelf: Pick<TagShelf, 'get' | 'text' | 'goodValue'>
  table: TagTable
  outlet: string
  site(): string
  link(id: number): LinkRunner | undefined
  hand(arrival: Arrival): void
  mostBody(): number
}

export type Values = Record<string, Carried>
type Doing<K extends Endpoint['does']['kind']> = Extract<Endpoint['does'], { kind: K }>

const rowsWithinMs = 30_000

/** Answers one endpoint. Throws where it cannot be read, which its problems tell before. */
export const endpointHandler = (endpoint: Endpoint, around: EndpointAround): Handler => {
  const wantsBody = endpoint.method !== 'GET'
  const answer = answerer(endpoint, around)
  return async (asked, path) => {
    if (endpoint.who.length > 0 && !endpoint.who.includes(asked.guest.name))
      return problem(fault('serve.not-allowed', { who: asked.guest.name, what: `ask for ${titleOf(endpoint)}` }))
    const body = wantsBody ? await readBody(asked.request, around.mostBody()) : { ok: true as const, bytes: Buffer.alloc(0) }
    if (!body.ok) return problem(body.why)
    const read = jsonBody(body.bytes, asked.request.headers['content-type'])
    if (!read.ok) return problem(read.why)
    const raw = { path, query: asked.query, headers: asked.request.headers, body: read.value }
    return answer(asked, raw, body.bytes)
  }
}

/** Answers what was given to one endpoint, whoever may ask. Throws where it cannot be read. */
export const answerer = (endpoint: Endpoint, around: EndpointAround) => {
  const parameters = parametersOf(endpoint)
  const step = stepOf(endpoint, answering(endpoint.answer), around)
  return async (asked: Wanted, raw: Raw, bytes: Uint8Array): Promise<Reply> => {
    const given = readGiven(parameters, raw)
    if (!given.ok) {
      const problems = given.problems.map(({ name, in: where, problem: text }) => `${name} (${where}): ${text}`).join('; ')
      return problem(fault('serve.parameters', { problems }), { fields: { parameters: given.problems } })
    }
    try {
      return await step(asked, given.values, { bytes, value: raw.body })
    } catch (error) {
      if (error instanceof AnswerProblem) return problem(fault('serve.answer', { endpoint: titleOf(endpoint), problem: error.message }))
      if (isFault(error)) return problem(error)
      throw error
    }
  }
}

const titleOf = ({ method, path }: Endpoint) => `${method} ${path}`

/** Who asks, and for what. */
export type Wanted = Pick<Asked, 'path' | 'query' | 'guest'>

interface Body {
  bytes: Uint8Array
  value: unknown
}
type Step = (asked: Wanted, values: Values, body: Body) => Promise<Reply> | Reply

const stepOf = (endpoint: Endpoint, answer: Answering, around: EndpointAround): Step => {
  const { does } = endpoint
  switch (does.kind) {
    case 'rows':
      return lookingUp(endpoint, does, answer, around)
    case 'tags':
      return showing(endpoint, does, answer, around)
    case 'message':
      return handing(endpoint, does, answer, around)
  }
}

const nothing = ({ missing }: Endpoint, { path, query }: Wanted, empty: string): Reply => {
  if (missing === 404) return problem(fault('serve.nothing-found', { what: path + (query.size > 0 ? `?${query.toString()}` : '') }))
  return missing === 204 ? { status: 204, body: '', type: 'application/json' } : json(empty)
}

const lookingUp = (endpoint: Endpoint, does: Doing<'rows'>, answer: Answering, { link: linkOf, site, outlet }: EndpointAround): Step => {
  const statement = readLookUp(endpoint, does.statement)
  if (!statement.ok) throw new Error(statement.problem)
  return async (asked, values) => {
    const link = linkOf(does.linkId)
    if (!link) throw fault('entry.gone', { thing: 'link', id: does.linkId }) as unknown as Error
    const store = link.receiver()
    if (isFault(store)) throw store as unknown as Error
    if (store.takes !== 'table') throw fault('bridge.no-receiver', { link: link.name, what: 'rows' }) as unknown as Error
    const facts = factsFor(endpoint, values, { site: site(), outlet, now: Date.now() })
    const query = { parts: statement.parts, parameters: statement.parameters.map((work) => work(facts)), most: does.many ? does.most : 1 }
    const found = await within(rowsWithinMs, store.ask(query)).catch((error: Error) => {
      throw isFault(error) ? error : (fault('serve.late', { ms: rowsWithinMs }) as unknown as Error)
    })
    const rows = found.rows.map((row): Values => Object.fromEntries(found.columns.map(({ name }, i) => [name, row[i] ?? null])))
    if (rows.length === 0) return nothing(endpoint, asked, does.many ? answer({ values, rows: [] }) : 'null')
    if (endpoint.answer.trim() === '') return json(jsonOf(does.many ? rows : rows[0]!))
    return json(does.many ? answer({ values, rows }) : answer({ values: { ...values, ...rows[0] }, rows: null }))
  }
}

const showing = (endpoint: Endpoint, does: Doing<'tags'>, answer: Answering, { shelf, table }: EndpointAround): Step => {
  const pathOf = (path: string, values: Values) => path.replaceAll(/\{([^{}]*)\}/g, (_, name: string) => textOf(values[name] ?? null))
  return (asked, values) => {
    const all: Values = { ...values }
    const whole: Values = {}
    for (const { name, path } of does.values) {
      const tag = shelf.get(pathOf(path, values))
      if (!tag || asked.guest.rules.at(tag.path) === 'nothing') return nothing(endpoint, asked, 'null')
      const code = table.quality[tag.handle]!
      const at = table.sourceTime[tag.handle]!
      all[name] = shelf.goodValue(tag)
      all[`${name}_quality`] = qualityName(code)
      all[`${name}_time`] = at > 0 ? isoText(new Date(at)) : null
      all[`${name}_unit`] = tag.unit
      whole[name] = parseJson(shelf.text(tag)) as Carried
    }
    return json(endpoint.answer.trim() === '' ? jsonOf(whole) : answer({ values: all, rows: null }))
  }
}

const handing = (endpoint: Endpoint, does: Doing<'message'>, answer: Answering, { hand }: EndpointAround): Step => {
  const hasParameters = parametersOf(endpoint).length > 0
  return async (_asked, values, body) => {
    const payload = hasParameters ? new TextEncoder().encode(jsonOf(messageOf(values, body.value))) : new Uint8Array(body.bytes)
    const waits: Keeping[] = []
    const outcomes: Promise<RunOutcome>[] = []
    hand({ topic: does.topic, payload, at: Date.now(), ...(does.answers === 'kept' ? { waits } : { outcomes }) })
    const taken = does.answers === 'kept' ? waits : outcomes
    if (taken.length === 0) return problem(fault('serve.nobody', { topic: does.topic }))
    const late = () => problem(fault('serve.late', { ms: does.within }))
    if (does.answers === 'kept') {
      const kept = await within(does.within, Promise.all(waits)).catch(() => null)
      if (kept === null) return late()
      const why = kept.find((one) => one !== undefined && one !== null)
      return why ? problem(why, { status: 422 }) : accepted(answered(endpoint, answer, values, { outcome: 'kept' }))
    }
    const ended = await within(does.within, Promise.all(outcomes)).catch(() => null)
    return ended === null ? late() : endedReply(endpoint, answer, values, ended)
  }
}

/** What the parameters hold, beside what else is in the body. */
const messageOf = (values: Values, body: unknown): Carried => {
  const rest =
    typeof body === 'object' && body !== null && !Array.isArray(body)
      ? (body as Values)
      : body === undefined
        ? {}
        : { body: body as Carried }
  return { ...rest, ...values }
}

/** It is kept, and done later (RFC 9110, 15.3.3). */
const accepted = (body: string): Reply => ({ ...json(body), status: 202 })

const worst = ['delivered', 'kept', 'dropped', 'refused', 'nothing']

const endedReply = (endpoint: Endpoint, answer: Answering, values: Values, ended: readonly RunOutcome[]): Reply => {
  const [last] = [...ended].sort((a, b) => worst.indexOf(b.state) - worst.indexOf(a.state))
  const { state, why } = last!
  if (state === 'delivered') return json(answered(endpoint, answer, values, { outcome: state }))
  if (state === 'kept') return accepted(answered(endpoint, answer, values, { outcome: state }))
  if (why) return problem(why, { status: state === 'nothing' ? 422 : 502 })
  return problem(fault('serve.dropped', {}))
}

const answered = ({ answer: text }: Endpoint, answer: Answering, values: Values, more: Values): string =>
  text.trim() === '' ? jsonOf(more) : answer({ values: { ...values, ...more }, rows: null })
