import type { Link } from '#shared/links/link'
import type { ListedWrite } from '#shared/writes'
import type { Tag } from '#shared/tags'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { disagreements } from './agreement'
import { Api } from './api'
import { Chance, pause } from './chance'
import { Chaos } from './chaos'
import { Plant } from './plant'
import { ClientReader, PageReader, type Watched } from './readers'
import { Saver } from './savers'
import { ApiWriter, ClientWriter, type Writer } from './writers'
import { addressOf, pointBody } from '../support/tagBodies'

export interface SoakOptions {
  seed: number
  minutes: number
  longestStopMs: number
  tell(text: string): void
}

export interface Report {
  chaos: Record<string, number>
  /** Requests of all programs, and how many of them got no answer. */
  asked: number
  lostAnswers: number
  savesAnswered: number
  writes: { done: number; failed: number; inDoubt: number }
  /** Writes that were done and are not in the record. */
  recordsLost: number
  samples: { good: number; notGood: number }
  problems: string[]
}

/** A value may be as old as the longest stop before it is no longer true; a client that waits gets it that late. */
const ageMs = 5000
const fixedRegisters = 20
const writtenRegisters = [300, 301, 302, 303]

/** Kills, stops and breaks a site at random while programs of all kinds use it, and looks at the end who is right. */
export const soak = async ({ seed, minutes, longestStopMs, tell }: SoakOptions): Promise<Report> => {
  const [site, plant] = [await startSite(), await Plant.start()]
  try {
    const chance = new Chance(seed)
    const { linkId, fixed, written } = await setUp(site, plant)
    const newApi = () => new Api(site.base, site.cookie)
    const apis = Array.from({ length: 5 }, newApi)
    const savers = [0, 1, 2].map((i) => new Saver(`saver_${i}`, apis[i]!, linkId, 400 + 40 * i, chance.apart()))
    const writers: Writer[] = [
      ...written.slice(0, 2).map((tag, i) => new ApiWriter(apis[3 + i]!, tag.id, tag.path, writtenRegisters[i]!, chance.apart())),
      ...written.slice(2).map((tag, i) => new ClientWriter(site.opcuaPort, tag.path, writtenRegisters[2 + i]!, chance.apart())),
    ]
    const watched = [...fixed, ...written].map((tag) => watchedOf(tag, plant, longestStopMs + ageMs))
    const readers = [new ClientReader(site.opcuaPort, watched), new PageReader(site.base, site.cookie, watched)]
    const chaos = new Chaos(site, plant, chance.apart(), longestStopMs)
    const end = Date.now() + minutes * 60_000
    const isOver = () => Date.now() > end
    const progress = setInterval(() => tell(`${Math.round((end - Date.now()) / 1000)} s to go: ${JSON.stringify(chaos.done)}`), 30_000)
    await Promise.all([...savers, ...writers, ...readers, chaos].map((one) => one.run(isOver)))
    clearInterval(progress)
    const auditor = newApi()
    const problems = await disagreements(site, auditor, plant, savers)
    problems.push(...writers.flatMap((writer) => writer.problems(plant)), ...readers.flatMap((reader) => reader.problems))
    return {
      chaos: chaos.done,
      asked: sum(apis, (api) => api.asked),
      lostAnswers: sum(apis, (api) => api.lost),
      savesAnswered: sum(savers, (saver) => saver.answered),
      writes: {
        done: sum(writers, (writer) => writer.count('done')),
        failed: sum(writers, (writer) => writer.count('failed')),
        inDoubt: sum(writers, (writer) => writer.count('in doubt')),
      },
      recordsLost: await recordsLost(auditor, writers, written),
      samples: { good: sum(readers, (reader) => reader.good), notGood: sum(readers, (reader) => reader.notGood) },
      problems,
    }
  } finally {
    await site.stop()
    await plant.stop()
  }
}

const sum = <T>(all: readonly T[], of: (one: T) => number) => all.reduce((total, one) => total + of(one), 0)

const made = async <T>(site: Site, path: string, body: object): Promise<T> => {
  const { status, body: answer } = (await site.api(path, body)) as { status: number; body: unknown }
  if (status !== 200) throw new Error(JSON.stringify(answer))
  return answer as T
}

const setUp = async (site: Site, plant: Plant) => {
  const settings = {
    host: '127.0.0.1',
    port: plant.port,
    unit: 1,
    interval: 100,
    patience: { answer: 1000, retryFirst: 100, retryMost: 1000 },
  }
  const link = await made<Link>(site, '/links', { name: 'Plant', kind: 'modbus-tcp', settings })
  const tagAt = (path: string, register: number, access: Tag['access']) =>
    pointBody({ path, linkId: link.id, address: `holding/${register}`, type: 'uint16', access })
  const tags = await made<Tag[]>(site, '/tags', {
    tags: [
      ...Array.from({ length: fixedRegisters }, (_, i) => tagAt(`soak/fixed/point_${i}`, 100 + i, 'read')),
      ...writtenRegisters.map((register, i) => tagAt(`soak/written/point_${i}`, register, 'readwrite')),
    ],
  })
  const doors = [{ port: site.opcuaPort }]
  await made(site, '/outlets', { name: 'Soak', kind: 'opcua-server', settings: { doors, anonymous: [{ folder: '', may: 'write' }] } })
  await until(async () => ((await site.api('/status')) as { goodTags: number }).goodTags === tags.length)
  await pause(500)
  return { linkId: link.id, fixed: tags.slice(0, fixedRegisters), written: tags.slice(fixedRegisters) }
}

const watchedOf = (tag: Tag, plant: Plant, oldestMs: number): Watched => {
  const register = Number(addressOf(tag).split('/')[1])
  return { path: tag.path, tagId: tag.id, isTrue: (value, at) => plant.held(register, value as number, at - oldestMs) }
}

const mostListed = 500

/** As far back as one page of the record goes. */
const recordsLost = async (api: Api, writers: readonly Writer[], tags: readonly Tag[]): Promise<number> => {
  let lost = 0
  for (const [i, { sent }] of writers.entries()) {
    const listed = (await api.insist('GET', `/writes?tag=${tags[i]!.id}&limit=${mostListed}`)).items as ListedWrite[]
    const recorded = new Set(listed.map(({ value }) => Number(value)))
    lost += sent.slice(-mostListed).filter(({ value, told }) => told === 'done' && !recorded.has(value)).length
  }
  return lost
}
