import { changeCase } from './changeCase'
import { memoryCase } from './memoryCase'
import { modbusCase } from './modbusCase'
import { opcuaCase } from './opcuaCase'
import { writeReport } from './report'
import { pipeCase } from './pipeCase'
import { startCase } from './startCase'

writeReport([await modbusCase(), await opcuaCase(), await pipeCase(), await startCase(), await memoryCase(), await changeCase()])
process.exit(0)
