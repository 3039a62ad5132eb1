import { changeCase } from './changeCase'
import { memoryCase } from './memoryCase'
import { modbusCase } from './modbusCase'
import { opcuaCase } from './opcuaCase'
import { writeReport } from './report'
import { openingCase } from './openingCase'
import { pipeCase } from './pipeCase'
import { startCase } from './startCase'
import { tapCase } from './tapCase'

writeReport([
  await modbusCase(),
  await opcuaCase(),
  await pipeCase(),
  await startCase(),
  await memoryCase(),
  await changeCase(),
  await openingCase(),
  await tapCase(),
])
process.exit(0)
