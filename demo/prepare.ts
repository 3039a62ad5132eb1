import { sql, type Kysely } from 'kysely'
import { changeConfiguration } from '#db/configuration'
import { connect } from '#db/connect'
import { migrate } from '#db/migrate'
import { tagColumns } from '#db/rows'
import type { Database } from '#db/tables'
import { outletContract } from '#shared/outlets/outlet'
import { berthMeters, meterTags } from './berthMeters'

/** Runs once before engine and web: newest tables, and the demo's data where it is asked for. */
const main = async () => {
  const db = connect(process.env.CONDUIT_DATABASE!)
  try {
    await migrate(db)
    if (process.env.CONDUIT_DEMO) await furnish(db, Number(process.env.CONDUIT_STANDIN_MODBUS_PORT), Number(process.env.CONDUIT_OPCUA_PORT))
  } finally {
    await db.destroy()
  }
}

const furnish = async (db: Kysely<Database>, modbusPort: number, opcuaPort: number) => {
  const { revision } = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
  if (revision === 0) await fill(db, modbusPort, opcuaPort)
  else await followPorts(db, modbusPort, opcuaPort)
}

const fill = (db: Kysely<Database>, modbusPort: number, opcuaPort: number) =>
  changeConfiguration(db, 'demo', 'Set up Harrow Sound Ferry Port', async (editor) => {
    await editor.db.updateTable('site').set({ name: 'Harrow Sound Ferry Port' }).execute()
    const draft = berthMeters(modbusPort)
    const [link] = await editor.insert('link', [{ ...draft, settings: JSON.stringify(draft.settings) }])
    await editor.insert('tag', meterTags(link!.id).map(tagColumns))
    const outlet = outletContract.parse({ name: 'OPC UA server', kind: 'opcua-server', settings: { port: opcuaPort } })
    await editor.insert('outlet', [{ ...outlet, settings: JSON.stringify(outlet.settings) }])
  })

/** Where the launcher had to choose other ports than last time, the demo's own link and outlet follow. */
const followPorts = async (db: Kysely<Database>, modbusPort: number, opcuaPort: number) => {
  const link = await db
    .selectFrom('link')
    .selectAll()
    .where('name', '=', 'Berth meters')
    .where(sql`settings->>'host'`, '=', '127.0.0.1')
    .executeTakeFirst()
  const outlet = await db.selectFrom('outlet').selectAll().where('name', '=', 'OPC UA server').executeTakeFirst()
  const moves = (settings: Record<string, unknown> | undefined, port: number) => settings !== undefined && settings.port !== port
  if (!moves(link?.settings, modbusPort) && !moves(outlet?.settings, opcuaPort)) return
  await changeConfiguration(db, 'demo', 'Ports of the demo moved', async (editor) => {
    if (link && moves(link.settings, modbusPort))
      await editor.update('link', link, { settings: JSON.stringify({ ...link.settings, port: modbusPort }) })
    if (outlet && moves(outlet.settings, opcuaPort))
      await editor.update('outlet', outlet, { settings: JSON.stringify({ ...outlet.settings, port: opcuaPort }) })
  })
}

await main()
