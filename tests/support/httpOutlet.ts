import { CallBook } from '#core/calls/callBook'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import type { LinkRunner } from '#engine/links/linkRunner'
import { HttpServerSession } from '#engine/outlets/http/session'
import type { OutletContext, OutletTag } from '#engine/outlets/driver'
import { TagTable, type Handle } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { httpServerSettings } from '#shared/outlets/httpServer'
import { freePort } from '../../launcher/ports.mjs'
import { noAlarms, noPast, plainTag } from './outletTag'
import type { Closing } from './engineOn'
import { memoryJournal } from './modbusSession'
import { testSecurity } from './security'
import { until } from './until'

interface Around {
  write?: OutletContext<unknown>['write']
  link?(id: number): LinkRunner | undefined
  past?: OutletContext<unknown>['past']
}

/** An HTTP outlet with a tag table of its own and nothing behind it but what is given; who asks is Node's own fetch. */
export const openHttpOutlet = async (closing: Closing, settings: Record<string, unknown> = {}, around: Around = {}) => {
  const port = await freePort()
  const [table, journal, book, security] = [new TagTable(), memoryJournal(), new ArrivalBook(() => {}), await testSecurity()]
  const parsed = (next: Record<string, unknown>) =>
    httpServerSettings.parse({ ...next, doors: ((next.doors as object[] | undefined) ?? [{}]).map((door) => ({ port, ...door })) })
  const calls = new CallBook()
  const wire = new Wire()
  const written: { handle: Handle; value: TagValue; who: string }[] = []
  const session = new HttpServerSession({
    ...{ name: 'Office', settings: parsed(settings), table, journal, security, wire, calls, folder: null, arrivals: book },
    ...{ links: () => [], site: () => 'Harrow Sound', link: around.link ?? (() => undefined) },
    equipment: () => ({ classes: [], equipment: [] }),
    alarms: noAlarms,
    past: around.past ?? noPast,
    points: { ask: () => ({ ok: false, problem: 'none' }), release: () => {}, isAlive: () => false },
    write: (handle, value, by) => {
      written.push({ handle, value, who: by.who })
      return around.write?.(handle, value, by) ?? Promise.resolve({ ok: true })
    },
  })
  closing.unshift(() => session.close())
  await until(() => session.status().flow === 'flowing')
  let id = 0
  const set = ({ handle }: Pick<OutletTag, 'handle'>, value: TagValue, code: number = quality.Good, at = Date.now()) => {
    table.set(handle, value, code, at)
    table.flush()
  }
  const tag = (path: string, value?: TagValue, more: Partial<OutletTag> = {}): OutletTag => {
    const handle = table.allocate()
    const made: OutletTag = { ...plainTag, handle, id: ++id, path, ...more }
    session.setTags([made], [])
    if (value !== undefined) set(made, value)
    return made
  }
  const base = `http://127.0.0.1:${port}`
  const ask = async (path: string, init: RequestInit = {}) => {
    const response = await fetch(base + path, { redirect: 'manual', ...init })
    const text = await response.text()
    return { status: response.status, headers: response.headers, text, body: text.startsWith('{') || text.startsWith('[') ? (JSON.parse(text) as Record<string, unknown>) : null } // prettier-ignore
  }
  const send = (method: string, path: string, body: unknown, headers: Record<string, string> = {}) =>
    ask(path, { method, body: JSON.stringify(body), headers: { 'content-type': 'application/json', ...headers } })
  const update = (next: Record<string, unknown>) => session.update(parsed(next))
  const details = () => {
    const found = session.status().details
    return found?.kind === 'http-server' ? found : null
  }
  return { session, wire, calls, port, base, table, journal, book, security, written, tag, set, ask, send, update, details }
}

/** A reader of server-sent events that is not ours to parse with: lines as they come. */
export const eventsOf = async (closing: Closing, url: string, headers: Record<string, string> = {}) => {
  const ending = new AbortController()
  closing.unshift(async () => ending.abort())
  const response = await fetch(url, { headers, signal: ending.signal })
  const events: Record<string, unknown>[] = []
  let isOpen = true
  const reading = async () => {
    let rest = ''
    for await (const chunk of response.body! as unknown as AsyncIterable<Uint8Array>) {
      rest += new TextDecoder().decode(chunk)
      const parts = rest.split('\n\n')
      rest = parts.pop()!
      for (const part of parts) if (part.startsWith('data: ')) events.push(JSON.parse(part.slice(6)) as Record<string, unknown>)
    }
  }
  void reading()
    .catch(() => {})
    .finally(() => (isOpen = false))
  return { response, events, isOpen: () => isOpen, end: () => ending.abort() }
}
