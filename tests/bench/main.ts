import { memoryCase } from './memoryCase'
import { modbusCase } from './modbusCase'
import { opcuaCase } from './opcuaCase'
import { writeReport } from './report'
import { startCase } from './startCase'

writeReport([await modbusCase(), await opcuaCase(), await startCase(), await memoryCase()])
process.exit(0)
