import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { sql, type Kysely } from 'kysely'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import { connect } from '#db/connect'
import { migrate } from '#db/migrate'
import type { Database } from '#db/tables'
import { OwnCertificate } from '#security/ownCertificate'
import { Seal } from '#security/seal'
import type { Outlet } from '#shared/outlets/outlet'
import type { LinkDraft } from '#shared/links/link'
import { demoBridges } from './bridges'
import { prepareCallBook } from './callBook'
import { cloudBase, cloudName, demoCloud } from './cloud'
import { converterLink, converterTags } from './converter'
import { callBookLink, filesLink, quayLink, quayTags, tariffFile } from './quay'
import { berthMeters, meterTags } from './berthMeters'
import { meterLine, meterLineTags, meterLineWay } from './meterLine'
import { substationLink, substationSettings, substationTags, type SubstationPorts } from './substation'
import { descriptionsFrom, sensorBase, sensorDescriptions, sensorLink, sensorTags } from './sensors'
import { tariffBase, tariffLink, tariffTags } from './tariff'
import { demoDisplays } from './displays'
import { demoClasses, demoEquipment, equipmentTags } from './equipment'
import { demoRecordings } from './history'
import { demoRecordSets } from './recordSets'
import { madeTags } from './portMade'
import { memoryTags } from './portMemory'
import { demoBroker, demoOutlet, demoPanel, demoServer, movedTo, type OutletPorts } from './outlet'
import { addDemoPeople, addFirstAdministrator, resetPassword, type Account } from './people'
import { addDemoDesk } from './desk'
import { addDemoPast } from './past'
import { armCertificates, armLinks, armsFrom, armTags, letUsIn, type Arm } from './cableArms'

interface Ports extends OutletPorts, SubstationPorts {
  modbus: number
  quay: number
  tariff: number
  meterLine: number
  sensors: number
  converter: number
  database: number
  control: number
  cloud: number
}

/**
 * Runs once before engine and web: newest tables, somebody who may come in, and the demo's data where
 * it is asked for. Tells on its last line, as JSON, which account it made.
 */
const main = async () => {
  const db = connect(process.env.CONDUIT_DATABASE!)
  try {
    await migrate(db)
    const lost = process.env.CONDUIT_RESET_PASSWORD
    if (lost) return tell(await resetPassword(db, lost))
    if (process.env.CONDUIT_DEMO) {
      await prepareCallBook(process.env.CONDUIT_DATABASE!)
      const isNew = await furnish(db, portsFrom(process.env))
      await addDemoPeople(db)
      if (isNew) await addDemoDesk(db)
      if (isNew) await addDemoPast(db, process.env.CONDUIT_DATABASE!)
    }
    tell(await addFirstAdministrator(db))
  } finally {
    await db.destroy()
  }
}

const tell = (account: Account | null) => console.log(JSON.stringify({ account }))

const portsFrom = (env: NodeJS.ProcessEnv): Ports => ({
  modbus: Number(env.CONDUIT_STANDIN_MODBUS_PORT),
  opcua: Number(env.CONDUIT_OPCUA_PORT),
  opcuaSecured: Number(env.CONDUIT_OPCUA_SECURED_PORT),
  mqtt: Number(env.CONDUIT_MQTT_PORT),
  mqttSecured: Number(env.CONDUIT_MQTT_SECURED_PORT),
  http: Number(env.CONDUIT_HTTP_PORT),
  modbusOutlet: Number(env.CONDUIT_MODBUS_PORT),
  control: Number(env.CONDUIT_STANDIN_PORT),
  cloud: Number(env.CONDUIT_STANDIN_CLOUD_PORT),
  converter: Number(env.CONDUIT_STANDIN_CONVERTER_PORT),
  ventilation: Number(env.CONDUIT_STANDIN_VENTILATION_PORT),
  transformer: Number(env.CONDUIT_STANDIN_TRANSFORMER_PORT),
  meterLine: Number(env.CONDUIT_STANDIN_LINE_PORT),
  sensors: Number(env.CONDUIT_STANDIN_SENSOR_PORT),
  quay: Number(env.CONDUIT_STANDIN_QUAY_PORT),
  tariff: Number(env.CONDUIT_STANDIN_TARIFF_PORT),
  database: Number(new URL(env.CONDUIT_DATABASE!).port),
})

/** @returns whether the site was empty before. */
const furnish = async (db: Kysely<Database>, ports: Ports): Promise<boolean> => {
  const arms = await armsFrom(ports.control)
  const { revision } = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
  if (revision === 0) await fill(db, ports, arms)
  else await followPorts(db, ports, arms)
  return revision === 0
}

const fill = async (db: Kysely<Database>, ports: Ports, arms: Arm[]) => {
  const stateFolder = process.env.CONDUIT_STATE!
  const tariffs = join(stateFolder, 'files', 'tariffs')
  mkdirSync(tariffs, { recursive: true })
  writeFileSync(join(tariffs, '2026-12.csv'), tariffFile())
  const seal = new Seal(process.env.CONDUIT_SEAL_KEY!)
  const documents = await descriptionsFrom(ports.control)
  await letUsIn(ports.control, arms, await OwnCertificate.load(stateFolder, seal))
  await changeConfiguration(db, 'demo', 'Set up Harrow Sound Ferry Port', async (editor) => {
    await editor.db.updateTable('site').set({ name: 'Harrow Sound Ferry Port' }).execute()
    const meters = await addLink(editor, berthMeters(ports.modbus))
    const ofBerths = meterTags(meters)
    await editor.insert('tag', [...ofBerths, ...memoryTags(), ...madeTags()])
    await editor.insert('certificate', armCertificates(arms))
    for (const [i, draft] of armLinks(arms, seal).entries()) {
      const link = await addLink(editor, draft)
      await editor.insert('tag', armTags(arms[i]!.number, link))
    }
    const quay = await addLink(editor, quayLink(ports.quay))
    await editor.insert('tag', quayTags(quay))
    const [book, files] = [await addLink(editor, callBookLink(ports.database, seal)), await addLink(editor, filesLink())]
    await editor.insert('recordSet', demoRecordSets(book))
    const tariffs = await addLink(editor, tariffLink(ports.tariff, seal))
    await editor.insert('tag', tariffTags(tariffs))
    const ofConverter = converterTags(await addLink(editor, converterLink(ports.converter)))
    await editor.insert('tag', ofConverter)
    await editor.insert('tag', substationTags(await addLink(editor, substationLink(ports))))
    await editor.insert('deviceDescription', sensorDescriptions(documents))
    await editor.insert('tag', sensorTags(await addLink(editor, sensorLink(ports.sensors)), documents))
    await editor.insert('tag', meterLineTags(await addLink(editor, meterLine(ports.meterLine))))
    await editor.insert('recording', demoRecordings())
    await editor.insert('equipmentClass', demoClasses())
    await editor.insert('display', demoDisplays())
    await editor.insert('tag', equipmentTags(await editor.insert('equipment', demoEquipment())))
    const outlets = [
      await demoOutlet(ports),
      await demoBroker(ports),
      await demoServer(ports, book),
      demoPanel(ports, [...ofBerths, ...ofConverter]),
      demoCloud(ports.cloud, seal),
    ]
    const [, broker, server] = await editor.insert('outlet', outlets)
    await editor.insert('bridge', demoBridges({ quay, callBook: book, files, tariffs, broker: broker!.id, server: server!.id }))
  })
}

const addLink = async (editor: Editor, draft: LinkDraft): Promise<number> => {
  const [link] = await editor.insert('link', [draft])
  return link!.id
}

const movedOutlet = (name: string, settings: Outlet['settings'], ports: Ports): Outlet['settings'] | null => {
  if ('doors' in settings) return movedTo(name, settings, ports)
  const base = cloudBase(ports.cloud)
  const isMoved = name === cloudName && settings.way.kind === 'http' && settings.way.base !== base
  return isMoved ? { ...settings, way: { ...settings.way, base } as typeof settings.way } : null
}

/** Where the launcher had to choose other ports than last time, the demo's own links and outlet follow. */
const followPorts = async (db: Kysely<Database>, ports: Ports, arms: Arm[]) => {
  const links = await db
    .selectFrom('link')
    .selectAll()
    .where(sql<boolean>`settings::text like '%127.0.0.1%'`)
    .execute()
  const outlets = await db.selectFrom('outlet').selectAll().execute()
  const wanted = new Map<string, Record<string, unknown>>([
    ['Berth meters', { port: ports.modbus }],
    ['Frequency converter FC-1', { port: ports.converter }],
    ['Substation building services', substationSettings(ports)],
    ['Arm sensors berth 1', { base: sensorBase(ports.sensors) }],
    ['Meters by their line', { line: meterLineWay(ports.meterLine) }],
    ['Quay', { port: ports.quay }],
    ['Vessel call book', { port: ports.database }],
    ['Tariff service', { base: tariffBase(ports.tariff) }],
    ...arms.map(({ number, url }) => [`Cable arm berth ${number}`, { address: url }] as const),
  ])
  const moves = (settings: Record<string, unknown>, to: Record<string, unknown>) =>
    Object.entries(to).some(([name, value]) => JSON.stringify(settings[name]) !== JSON.stringify(value))
  const movedLinks = links.filter(({ name, settings }) => moves(settings, wanted.get(name) ?? {}))
  const movedOutlets = outlets.flatMap((outlet) => {
    const settings = movedOutlet(outlet.name, outlet.settings as unknown as Outlet['settings'], ports)
    return settings ? [{ outlet, settings }] : []
  })
  if (movedLinks.length + movedOutlets.length === 0) return
  await changeConfiguration(db, 'demo', 'Ports of the demo moved', async (editor) => {
    for (const link of movedLinks) await editor.update('link', link, { settings: { ...link.settings, ...wanted.get(link.name) } as never })
    for (const { outlet, settings } of movedOutlets) await editor.update('outlet', outlet, { settings })
  })
}

await main()
