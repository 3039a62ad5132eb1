import { fault } from '#core/faults/catalogue'
import { readSetting } from '#core/outlets/published'
import { parseJson } from '#core/messages/json'
import { jsonOf, type Carried } from '#core/messages/carried'
import { inParallel } from '#pacing/inParallel'
import type { OutletContext, OutletTag } from '../driver'
import type { Answered, Asked, Handler } from './asked'
import { jsonBody, readBody } from './body'
import type { HttpGuest } from './guests'
import { json, problem, type RefusedItem, type Reply } from './reply'
import type { TagShelf } from './tagShelf'

const usualPage = 1000
const mostAsked = 10_000
const mostUnderWay = 50

interface Around {
  shelf: TagShelf
  write: OutletContext<unknown>['write']
  outlet: string
  /** The largest body, kB. */
  mostBody(): number
}

type Route = [method: 'GET' | 'PUT' | 'POST', path: string, handler: Handler]

/** Tags for programs: one, some, a folder; and writing them where they may be written. */
export const tagRoutes = ({ shelf, write, outlet, mostBody }: Around): Route[] => {
  const noTag = (path: string) => problem(fault('serve.no-tag', { path: path.slice(0, 240) }))
  const mayRead = ({ rules }: HttpGuest, path: string) => rules.at(path) !== 'nothing'

  const one: Handler = ({ guest }, { '*': path = '' }) => {
    const tag = shelf.get(path)
    return tag && mayRead(guest, path) ? json(shelf.text(tag)) : noTag(path)
  }

  /** By their paths, those that are not there among them; a path that is none stops no other. */
  const listed = (guest: HttpGuest, paths: readonly string[]): Reply => {
    const refused: RefusedItem[] = []
    const items = paths.map((path) => {
      const tag = shelf.get(path)
      if (tag && mayRead(guest, path)) return shelf.text(tag)
      const why = 'there is no such tag here'
      refused.push({ what: path.slice(0, 240), why })
      return jsonOf({ path, problem: why })
    })
    return json(`{"items":[${items.join(',')}]}`, refused)
  }

  const some: Handler = ({ guest, query }) => {
    const paths = query.getAll('path')
    if (paths.length > mostAsked) return tooMany()
    if (paths.length > 0) return listed(guest, paths)
    const limit = Number(query.get('limit') ?? usualPage)
    if (!Number.isInteger(limit) || limit < 1 || limit > mostAsked)
      return problem(fault('serve.parameters', { problems: `limit is a whole number from 1 to ${mostAsked}` }))
    const after = query.get('after') ?? ''
    const items: string[] = []
    let last = ''
    for (const tag of shelf.in((query.get('folder') ?? '').replace(/^\/+|\/+$/g, ''))) {
      if (tag.path <= after || !mayRead(guest, tag.path)) continue
      if (items.length === limit) return json(`{"items":[${items.join(',')}],"next":${JSON.stringify(last)}}`)
      items.push(shelf.text(tag))
      last = tag.path
    }
    return json(`{"items":[${items.join(',')}],"next":null}`)
  }

  const bodyOf = async ({ request }: Asked, parse?: (text: string) => unknown) => {
    const read = await readBody(request, mostBody())
    return read.ok ? jsonBody(read.bytes, request.headers['content-type'], parse) : read
  }

  const read: Handler = async (asked) => {
    const body = await bodyOf(asked, JSON.parse)
    if (!body.ok) return problem(body.why)
    const paths = (body.value as { paths?: unknown } | null | undefined)?.paths
    if (!Array.isArray(paths) || !paths.every((path) => typeof path === 'string'))
      return problem(fault('serve.body', { problem: 'it is {"paths":["…"]}' }))
    return paths.length > mostAsked ? tooMany() : listed(asked.guest, paths)
  }

  /** Null: it was written. */
  const set = async ({ guest, from }: Asked, path: string, bytes: Uint8Array): Promise<Reply | null> => {
    const tag = shelf.get(path)
    if (!tag || !mayRead(guest, path)) return noTag(path)
    if (guest.rules.at(path) !== 'write') return problem(fault('serve.not-allowed', { who: guest.name, what: `set ${path}` }))
    if (!tag.writable) return problem(fault('write.not-writable', { path }))
    const told = readSetting(bytes, tag.type)
    if (!told.ok) return problem(fault('write.value', { path, problem: told.problem }))
    const by = { who: `${guest.name}, from ${from}`.slice(0, 200), via: 'client' as const, place: outlet.slice(0, 200) }
    const outcome = await write(tag.handle, told.value, by)
    return outcome.ok ? null : problem(outcome.fault)
  }

  const put: Handler = async (asked, { '*': path = '' }) => {
    const body = await readBody(asked.request, mostBody())
    if (!body.ok) return problem(body.why)
    return (await set(asked, path, body.bytes)) ?? json(shelf.text(shelf.get(path) as OutletTag))
  }

  const writeSome: Handler = async (asked): Promise<Answered> => {
    const body = await bodyOf(asked)
    if (!body.ok) return problem(body.why)
    const items = (body.value as { items?: unknown } | null | undefined)?.items
    if (!Array.isArray(items) || !items.every(isItem))
      return problem(fault('serve.body', { problem: 'it is {"items":[{"path":"…","value":…}]}' }))
    if (items.length > mostAsked) return tooMany()
    const notWritten: RefusedItem[] = []
    const outcomes = await inParallel(items, mostUnderWay, async ({ path, value }): Promise<Carried> => {
      const refused = await set(asked, path, new TextEncoder().encode(jsonOf({ value })))
      if (!refused) return { path, written: true }
      const problem = parseJson(String(refused.body)) as Carried
      notWritten.push({ what: path.slice(0, 240), why: (problem as { detail?: string }).detail ?? '' })
      return { path, written: false, problem }
    })
    return json(jsonOf({ items: outcomes }), notWritten)
  }

  return [
    ['GET', '/tags', some],
    ['GET', '/tags/*', one],
    ['POST', '/tags/read', read],
    ['PUT', '/tags/*', put],
    ['POST', '/tags/write', writeSome],
  ]
}

const isItem = (item: unknown): item is { path: string; value: Carried } =>
  typeof item === 'object' && item !== null && 'value' in item && 'path' in item && typeof item.path === 'string'

const tooMany = () =>
  problem(fault('serve.parameters', { problems: `at most ${mostAsked.toLocaleString('en-GB')} tags are asked for at once` }))
