import { changeCase } from './changeCase'
import { importCase } from './importCase'
import { formulaCase } from './formulaCase'
import { memoryCase } from './memoryCase'
import { modbusCase } from './modbusCase'
import { opcuaCase } from './opcuaCase'
import { writeReport } from './report'
import { notesCase } from './notesCase'
import { openingCase } from './openingCase'
import { pipeCase } from './pipeCase'
import { startCase } from './startCase'
import { tapCase } from './tapCase'

/** In the order of the report. */
const cases = {
  modbus: modbusCase,
  opcua: opcuaCase,
  pipe: pipeCase,
  start: startCase,
  memory: memoryCase,
  change: changeCase,
  opening: openingCase,
  tap: tapCase,
  import: importCase,
  notes: notesCase,
  formulas: formulaCase,
}

/** All of them, or those that are named; the report keeps what it has of the others. */
const named = process.argv.slice(2)
const unknown = named.find((name) => !Object.hasOwn(cases, name))
if (unknown) throw new Error(`There is no case “${unknown}”: ${Object.keys(cases).join(', ')}.`)
const sections = []
for (const [name, measure] of Object.entries(cases)) if (named.length === 0 || named.includes(name)) sections.push(await measure())
writeReport(sections, named.length === 0)
process.exit(0)
