import { bacnetCase } from './bacnetCase'
import { bridgesCase } from './bridgesCase'
import { brokerCase } from './brokerCase'
import { changeCase } from './changeCase'
import { importCase } from './importCase'
import { cloudCase } from './cloudCase'
import { controllerCase } from './controllerCase'
import { formulaCase } from './formulaCase'
import { memoryCase } from './memoryCase'
import { modbusCase } from './modbusCase'
import { opcuaCase } from './opcuaCase'
import { writeReport } from './report'
import { gridCase } from './gridCase'
import { imagesCase } from './imagesCase'
import { journalCase } from './journalCase'
import { layoutCase } from './layoutCase'
import { notesCase } from './notesCase'
import { openingCase } from './openingCase'
import { pastCase, yearCase } from './pastCase'
import { pathCase } from './pathCase'
import { pipeCase } from './pipeCase'
import { relayCase } from './relayCase'
import { registersCase } from './registersCase'
import { rowsCase } from './rowsCase'
import { setsCase } from './setsCase'
import { steadyCase } from './steadyCase'
import { startCase } from './startCase'
import { tapCase } from './tapCase'
import { throughCase } from './throughCase'
import { trafficCase } from './trafficCase'
import { trafficPageCase } from './trafficPageCase'
import { webCase } from './webCase'

/** In the order of the report. */
const cases = {
  modbus: modbusCase,
  controllers: controllerCase,
  bacnet: bacnetCase,
  images: imagesCase,
  opcua: opcuaCase,
  pipe: pipeCase,
  relay: relayCase,
  start: startCase,
  memory: memoryCase,
  change: changeCase,
  opening: openingCase,
  tap: tapCase,
  path: pathCase,
  traffic: trafficCase,
  trafficPage: trafficPageCase,
  journal: journalCase,
  broker: brokerCase,
  bridges: bridgesCase,
  rows: rowsCase,
  sets: setsCase,
  through: throughCase,
  web: webCase,
  registers: registersCase,
  import: importCase,
  grid: gridCase,
  notes: notesCase,
  formulas: formulaCase,
  layout: layoutCase,
  cloud: cloudCase,
  past: pastCase,
  year: yearCase,
  steady: steadyCase,
}

/** All of them, or those that are named; the report keeps what it has of the others. */
const named = process.argv.slice(2)
const unknown = named.find((name) => !Object.hasOwn(cases, name))
if (unknown) throw new Error(`There is no case “${unknown}”: ${Object.keys(cases).join(', ')}.`)
/** What takes long is measured by name only. */
const lengthy = new Set(['steady', 'year'])
const meant = Object.entries(cases).filter(([name]) => (named.length === 0 ? !lengthy.has(name) : named.includes(name)))
const sections = []
for (const [, measure] of meant) sections.push(await measure())
writeReport(sections)
process.exit(0)
