import { quality } from '#core/tags/quality'
import type { LiveMessage } from '#shared/rpc'
import type { EngineStatus } from '#shared/status'
import type { LiveValue } from '#shared/values'
import type { Tag } from '#shared/tags'
import { WebSocket } from 'ws'
import { plainClient } from '../support/outlet'
import type { Site } from '../support/site'
import { until } from '../support/until'
import type { Api } from './api'
import type { Plant } from './plant'
import { agrees, savedAs, type Saver } from './savers'
import { addressOf } from '../support/tagBodies'

/** Everybody is asked what there is, once it is calm again; what they say has to be the same. */
export const disagreements = async (site: Site, api: Api, plant: Plant, savers: readonly Saver[]): Promise<string[]> => {
  const calm = await becomesCalm(api)
  if (calm !== null) return [calm]
  const tags = await allTags(api)
  const problems = savers.flatMap((saver) => lostSaves(saver, tags))
  problems.push(...(await byOutlet(site.opcuaPort, tags, plant)))
  problems.push(...(await byPage(site, tags, plant)))
  return problems
}

const registerOf = (tag: Tag) => Number(addressOf(tag).split('/')[1])

/** Null once everything is in force and good; else what still is not. */
const becomesCalm = async (api: Api): Promise<string | null> => {
  const look = async () => {
    const answer = await api.call('GET', '/status')
    const status = answer !== 'lost' && answer.status === 200 ? (answer.body as unknown as EngineStatus) : null
    const newest = ((await api.insist('GET', '/revisions?limit=1')) as unknown as { items: { number: number }[] }).items[0]!.number
    if (!status) return 'the engine does not answer'
    if (!status.databaseConnected) return 'the engine is without its database'
    if (status.configurationRevision !== newest) return `the engine is at revision ${status.configurationRevision} of ${newest}`
    if (status.notInForceCount > 0) return `${status.notInForceCount} things are not in force`
    const flowing = [...status.links, ...status.outlets].every(({ flow }) => flow === 'flowing')
    if (!flowing) return status.links.map(({ sentence }) => sentence).join()
    const { total } = (await api.insist('GET', '/tags?limit=1')) as unknown as { total: number }
    return status.goodTags === total ? null : `${status.goodTags} of ${total} tags are good`
  }
  return until(look, (problem) => problem === null, 90).catch((error: Error) => `not calm: ${error.message}`)
}

const allTags = async (api: Api): Promise<Tag[]> => ((await api.insist('GET', '/tags?limit=500')) as unknown as { items: Tag[] }).items

/** What was answered is there, or what was sent after it without an answer. */
const lostSaves = (saver: Saver, tags: readonly Tag[]): string[] =>
  [...saver.entries].flatMap(([path, entry]) => {
    const now = savedAs(tags.find((tag) => tag.path === path))
    return agrees(entry, now) ? [] : [`${path}: answered was ${JSON.stringify(entry.answered)}, saved is ${JSON.stringify(now)}`]
  })

const byOutlet = async (port: number, tags: readonly Tag[], plant: Plant): Promise<string[]> => {
  const client = await plainClient(port, 'Soak auditor')
  try {
    const problems: string[] = []
    for (const tag of tags) {
      const { value, statusCode } = await client.read('urn:keen-conduit:tags', tag.path)
      const expected = plant.value(registerOf(tag))
      if (!statusCode.isGood() || value.value !== expected)
        problems.push(`${tag.path}: the outlet gives ${String(value?.value)} (${statusCode.name}), the plant holds ${expected}`)
    }
    const shown = await pathsBelow(client, 'soak')
    const known = new Set(tags.map(({ path }) => path))
    return [...problems, ...shown.filter((path) => !known.has(path)).map((path) => `${path}: the outlet shows what is not there`)]
  } finally {
    await client.close()
  }
}

const pathsBelow = async (client: Awaited<ReturnType<typeof plainClient>>, folder: string): Promise<string[]> => {
  const names = await client.below(client.node('urn:keen-conduit:tags', `${folder}/`))
  const parts = await Promise.all(
    names.map(async (name) => {
      const path = `${folder}/${name}`
      const inside = await pathsBelow(client, path).catch(() => [])
      return inside.length > 0 ? inside : [path]
    }),
  )
  return parts.flat()
}

const byPage = async (site: Site, tags: readonly Tag[], plant: Plant): Promise<string[]> => {
  const socket = new WebSocket(`${site.base.replace('http', 'ws')}/live`, { headers: { cookie: site.cookie } })
  const values = new Map<number, LiveValue>()
  socket.on('open', () => socket.send(JSON.stringify({ say: 'watch', tags: tags.map(({ id }) => id), origin: null })))
  socket.on('message', (data: Buffer) => {
    const message = JSON.parse(data.toString()) as LiveMessage
    if (message.say !== 'values') return
    for (const value of message.values) values.set(value.id, value)
    socket.send(JSON.stringify({ say: 'taken', batch: message.batch }))
  })
  await until(() => values.size === tags.length).catch(() => {})
  socket.close()
  return tags.flatMap((tag) => {
    const [seen, expected] = [values.get(tag.id), plant.value(registerOf(tag))]
    const isRight = seen?.quality === quality.Good && seen.value === expected
    return isRight ? [] : [`${tag.path}: the page shows ${JSON.stringify(seen)}, the plant holds ${expected}`]
  })
}
