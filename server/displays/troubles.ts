import type { AlarmSeverity } from '#core/alarms/limits'
import { qualityText } from '#core/tags/quality'
import type { Alarm } from '#shared/alarms'
import type { Trouble } from '#shared/displays'
import type { Flow } from '#shared/flow'
import type { EngineStatus } from '#shared/status'
import { database } from '../store/database'
import { plain } from '../store/likeText'
import { engineClient } from '../runtime/engineClient'

/** What is not well in a folder, or on the whole site: the worst first. */
export const troublesIn = async (folder: string, most: number): Promise<{ total: number; items: Trouble[] }> => {
  const [alarms, tags, things] = await Promise.all([
    alarmsIn(folder, most),
    badTagsIn(folder, most),
    folder === '' ? thingsInTrouble() : [],
  ])
  const items = [...alarms.items, ...things, ...tags.items].sort((a, b) => rank[a.severity] - rank[b.severity])
  const shown = items.slice(0, most).map((one) => ({ ...one, title: within(one, folder) }))
  return { total: alarms.total + things.length + tags.total, items: shown }
}

/** As it is called there. */
const within = ({ title }: Trouble, folder: string) => (title.startsWith(`${folder}/`) ? title.slice(folder.length + 1) : title)

const rank: Record<AlarmSeverity, number> = { trouble: 0, caution: 1, note: 2 }

const alarmsIn = async (folder: string, most: number): Promise<{ total: number; items: Trouble[] }> => {
  const asked = { sort: 'rank', offset: 0, limit: most, folder, isActive: true } as const
  const { total, items } = await engineClient.call((engine) => engine.alarms(asked))
  return { total, items: items.map(ofAlarm) }
}

const ofAlarm = ({ path, text, severity, since, tagId }: Alarm): Trouble => {
  const to = `/tags?tag=${tagId}`
  return { of: 'alarm', title: path, text, severity, since, to }
}

const badTagsIn = async (folder: string, most: number): Promise<{ total: number; items: Trouble[] }> => {
  const bad = await engineClient.call((engine) => engine.ofQuality('bad'))
  if (bad.length === 0) return { total: 0, items: [] }
  const matching = database()
    .selectFrom('tag')
    .where((eb) => eb('id', '=', eb.fn.any(eb.val(bad))))
    .$if(folder !== '', (q) => q.where('path', 'like', `${plain(folder)}/%`))
  const [{ count }, rows] = await Promise.all([
    matching.select((eb) => eb.fn.countAll<string>().as('count')).executeTakeFirstOrThrow(),
    matching.select(['id', 'path']).orderBy('path').limit(most).execute(),
  ])
  const values = new Map((await engineClient.call((engine) => engine.valuesOf(rows.map(({ id }) => id)))).map((value) => [value.id, value]))
  const items = rows.map(({ id, path }): Trouble => {
    const { quality = 0, sourceTime = 0 } = values.get(id) ?? {}
    const to = `/tags?tag=${id}`
    return { of: 'tag', title: path, text: qualityText(quality), severity: 'caution', since: sourceTime || null, to }
  })
  return { total: Number(count), items }
}

interface Told {
  id: number
  flow: Flow
  sentence: string
}

/** Links, bridges, outlets and record sets that are not well. */
const thingsInTrouble = async (): Promise<Trouble[]> => {
  const status = await engineClient.call((engine) => engine.status())
  const kinds = [
    { of: 'link', table: 'link', folder: '/links', told: status.links },
    { of: 'bridge', table: 'bridge', folder: '/bridges', told: status.bridges },
    { of: 'outlet', table: 'outlet', folder: '/outlets', told: status.outlets },
    { of: 'record set', table: 'recordSet', folder: '/records', told: status.recordSets },
  ] as const satisfies { of: Trouble['of']; table: keyof EngineStatus | string; folder: string; told: readonly Told[] }[]
  const found = await Promise.all(
    kinds.map(async ({ of, table, folder, told }): Promise<Trouble[]> => {
      const unwell = (told as readonly Told[]).filter(({ flow }) => flow === 'broken' || flow === 'late')
      if (unwell.length === 0) return []
      const rows = await database().selectFrom(table).select(['id', 'name']).execute()
      const names = new Map(rows.map(({ id, name }) => [id, name]))
      return unwell.map(({ id, flow, sentence }) => {
        const severity = flow === 'broken' ? 'trouble' : 'caution'
        return { of, title: names.get(id) ?? '', text: sentence, severity, since: null, to: `${folder}/${id}` }
      })
    }),
  )
  return found.flat()
}
