import { randomBytes } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import pg from 'pg'
import { inject } from 'vitest'
import { bridgeContract, type BridgeDraft } from '#core/bridges/settings'
import { changeConfiguration } from '#db/configuration'
import { linkContract } from '#shared/links/link'
import { tagDraft } from '#shared/tags'
import { databaseFor, engineOn, type Closing } from './engineOn'
import { until } from './until'

/** A site with an engine that follows it, for bridges: things are made and changed as pages do it. */
export const bridgeSite = async (closing: Closing, base?: Awaited<ReturnType<typeof databaseFor>>, stateFolder?: string) => {
  const database = base ?? (await databaseFor(closing))
  const started = await engineOn(closing, database, stateFolder)
  const { engine } = started
  const change = async (edit: Parameters<typeof changeConfiguration>[3]) => {
    const { result, revision } = await changeConfiguration(database.db, 'test', 'made', edit)
    await until(() => engine.effectOf(revision).state !== 'not yet')
    return result
  }
  const link = async (draft: Record<string, unknown>) => {
    const [made] = (await change((editor) => editor.insert('link', [linkContract.parse(draft)]))) as { id: number }[]
    return made!.id
  }
  const tags = async (drafts: object[]) =>
    (await change((editor) =>
      editor.insert(
        'tag',
        drafts.map((draft) => tagDraft.parse(draft)),
      ),
    )) as { id: number; path: string }[]
  const bridge = async (draft: Record<string, unknown>) => {
    const [made] = (await change((editor) => editor.insert('bridge', [bridgeContract.parse(draft)]))) as { id: number }[]
    // its ways are open, and it looks out for what sets it off
    await until(() => engine.bridges.get(made!.id)!.isListening)
    return made!.id
  }
  const alter = (id: number, draft: Record<string, unknown>) =>
    change(async (editor) => editor.update('bridge', (await editor.row('bridge', id))!, bridgeContract.parse(draft)))
  const status = (id: number) => engine.bridges.status().find((one) => one.id === id)!
  const write = (path: string, value: number | string | boolean) =>
    engine.writes.writeTag(engine.tags.byPath(path)!.id, value, { who: 'test', via: 'page', place: '127.0.0.1' })
  const value = (path: string) => engine.table.values[engine.tags.byPath(path)!.handle]
  const qualityAt = (path: string) => engine.table.quality[engine.tags.byPath(path)!.handle]!
  const file = (name: string) => readFileSync(join(started.stateFolder, 'files', name), 'utf8')
  return { ...started, base: database, change, link, tags, bridge, alter, status, write, value, qualityAt, file }
}

export const memoryTag = (path: string, start: number | string | boolean | null, type = 'float64', more: object = {}) => ({
  ...{ path, type, access: 'readwrite', ...more },
  source: { kind: 'memory', ...(start === null ? {} : { start: String(start) }) },
})

export const bridgeDraft = (more: Partial<Record<keyof BridgeDraft, unknown>>) => ({
  name: `Bridge ${randomBytes(3).toString('hex')}`,
  ...more,
})

/** A database of another owner in the cluster of the tests, and its settings as a link has them. */
export const otherDatabase = async (closing: Closing) => {
  const cluster = new URL(inject('clusterUrl'))
  const name = `book_${randomBytes(6).toString('hex')}`
  const admin = new pg.Client({ connectionString: cluster.toString() })
  await admin.connect()
  await admin.query(`create database ${name}`)
  const url = Object.assign(new URL(cluster), { pathname: `/${name}` }).toString()
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  closing.push(async () => {
    await client.end()
    await admin.query(`drop database ${name} with (force)`)
    await admin.end()
  })
  const settings = {
    ...{ dialect: 'postgresql', host: '127.0.0.1', port: Number(cluster.port), database: name, user: cluster.username },
    password: { plain: decodeURIComponent(cluster.password) },
    patience: { retryFirst: 100, retryMost: 300, answer: 3000 },
  }
  const query = async (text: string) => (await client.query(text)).rows as Record<string, unknown>[]
  return { settings, query, name, admin }
}
