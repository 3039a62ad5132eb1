import { parseArgs } from 'node:util'
import { soak } from './soak'

const { values } = parseArgs({ options: { minutes: { type: 'string' }, seed: { type: 'string' }, stop: { type: 'string' } } })
const minutes = Number(values.minutes ?? 10)
const seed = Number(values.seed ?? 1)
const longestStopMs = Number(values.stop ?? 25_000)

console.log(`Soak: ${minutes} min, seed ${seed}, processes stopped for up to ${longestStopMs / 1000} s`)
const report = await soak({ seed, minutes, longestStopMs, tell: (text) => console.log(text) })
console.log(JSON.stringify(report, null, 2))
console.log(report.problems.length === 0 ? 'Everybody agrees.' : `${report.problems.length} problems.`)
process.exit(report.problems.length === 0 ? 0 : 1)
