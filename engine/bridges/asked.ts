import { isFault } from '#core/faults/catalogue'
import { mostRows } from '#core/bridges/each'
import { readExpression, type Worker } from '#core/bridges/expression'
import { memberAt } from '#core/bridges/member'
import { scopeOf, type Scope } from '#core/bridges/names'
import type { InputValue, RunFacts } from '#core/bridges/run'
import type { BridgeDraft, Input } from '#core/bridges/settings'
import { readStatement } from '#core/bridges/statement'
import type { Carried } from '#core/messages/carried'
import { Payload } from '#core/messages/payload'
import { quality } from '#core/tags/quality'
import type { LinkRunner } from '../links/linkRunner'
import type { CallTaker, Receiver, RowStore } from '../links/receiving'

/** What an input has now, or why it has nothing. */
export type Taken = { ok: true; value: InputValue } | { ok: false; problem: string; quality: number }

/** An input that is asked for somewhere else, with what those before it have. */
export interface Asker {
  /** The place of the input. */
  index: number
  /** Never rejects. */
  ask(run: RunFacts): Promise<Taken>
}

interface Around {
  link(id: number): LinkRunner | undefined
  /** Only a trial: nothing may be asked that could change something. */
  isTrial?: boolean
}

type Query = Extract<Input, { kind: 'query' }>
type Called = Extract<Input, { kind: 'call' }>

/** Throws where something cannot be read, which the bridge's problems tell before. */
export const askersOf = ({ take, lookUps }: Pick<BridgeDraft, 'take' | 'lookUps'>, around: Around): Asker[] =>
  take.flatMap((input, index): Asker[] => {
    const scope = scopeOf({ take: take.slice(0, index), lookUps })
    if (input.kind === 'query') return [{ index, ask: askingRows(input, scope, around) }]
    return input.kind === 'call' ? [{ index, ask: askingApi(input, scope, around) }] : []
  })

const askingRows = (input: Query, scope: Scope, around: Around): Asker['ask'] => {
  const statement = readStatement(input.statement, scope)
  if (!statement.ok) throw new Error(`of input ${input.name}: ${statement.problem}`)
  return (run) =>
    asking<RowStore>(around, input.linkId, 'table', 'rows', async (store) => {
      const parameters = statement.parameters.map((work) => work(run))
      const { columns, rows } = await store.ask({ parts: statement.parts, parameters, most: input.each ? mostRows : 1 })
      if (rows.length === 0 && !input.each) return missed('the statement gave no row')
      const values = rows.map((row): Carried => (columns.length === 1 ? (row[0] ?? null) : byName(columns, row)))
      return had(input.each ? values : values[0]!)
    })
}

const askingApi = (input: Called, scope: Scope, around: Around): Asker['ask'] => {
  const given = input.given.map(({ into, from }): [string, Worker] => [into, workerOf(input.name, from, scope)])
  const find = input.path === '' && !input.each ? wholeAnswer : memberAt(input.path || '$', input.each, 'the answer')
  return (run) =>
    asking<CallTaker>(around, input.linkId, 'call', 'answers', async (api) => {
      const method = api.operation(input.operation)?.method
      if (around.isTrial && method !== undefined && method !== 'GET')
        return missed(`${method} may change something there, so that it is not asked for before the bridge is on`)
      const call = { operation: input.operation, given: Object.fromEntries(given.map(([name, work]) => [name, work(run)])) }
      const answer = await api.call(call)
      if (!answer.ok) return missed(answer.why.what)
      const found = find(Payload.judged(answer.body))
      return found.ok ? had(found.value) : missed(found.problem)
    })
}

const workerOf = (name: string, from: string, scope: Scope): Worker => {
  const read = readExpression(from, scope)
  if (!read.ok) throw new Error(`of input ${name}: ${read.problem}`)
  return read.work
}

/** What is no JSON is text. */
const wholeAnswer = ({ json, text }: Payload) => (json.ok ? { ok: true as const, value: json.value as Carried } : text)

const asking = async <R extends Receiver>(
  { link: linkOf }: Around,
  id: number,
  takes: R['takes'],
  what: string,
  work: (receiver: R) => Promise<Taken>,
): Promise<Taken> => {
  const link = linkOf(id)
  const receiver = link?.receiver()
  if (!link || !receiver) return missed('its link is not there')
  if (isFault(receiver)) return missed(receiver.what)
  if (receiver.takes !== takes) return missed(`${link.name} gives no ${what}`)
  try {
    return await work(receiver as R)
  } catch (error) {
    return missed(isFault(error) ? error.what : (error as Error).message)
  }
}

const byName = (columns: readonly { name: string }[], row: readonly Carried[]): Carried =>
  Object.fromEntries(columns.map(({ name }, i) => [name, row[i] ?? null]))

const had = (value: Carried): Taken => ({ ok: true, value: { value, quality: quality.Good, at: Date.now(), unit: '' } })

/** As part of a sentence that ends by itself. */
export const missed = (problem: string): Taken => ({ ok: false, problem: problem.replace(/\.$/, ''), quality: quality.BadNoData })
