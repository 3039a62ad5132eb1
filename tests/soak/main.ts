import { parseArgs } from 'node:util'
import { proveDelivery } from './delivery'
import { proveHistory } from './history'
import { soak } from './soak'

const { values } = parseArgs({
  options: {
    minutes: { type: 'string' },
    seed: { type: 'string' },
    stop: { type: 'string' },
    records: { type: 'string' },
    history: { type: 'string' },
  },
})
const seed = Number(values.seed ?? 1)
const tell = (text: string) => console.log(text)

const ended = (report: { problems: string[] }, well: string) => {
  console.log(JSON.stringify(report, null, 2))
  console.log(report.problems.length === 0 ? well : `${report.problems.length} problems.`)
  process.exit(report.problems.length === 0 ? 0 : 1)
}

if (values.history) {
  const plantMinutes = Number(values.history)
  console.log(`History: ${plantMinutes} min of a plant in three, seed ${seed}`)
  ended(await proveHistory({ plantMinutes, seconds: 180, seed, tell }), 'All of it is there, and right.')
} else if (values.records) {
  const records = Number(values.records)
  console.log(`Delivery: ${records} records to four receivers, seed ${seed}`)
  ended(await proveDelivery({ records, engineKills: 10, seed, tell }), 'All of it arrived.')
} else {
  const minutes = Number(values.minutes ?? 10)
  const longestStopMs = Number(values.stop ?? 25_000)
  console.log(`Soak: ${minutes} min, seed ${seed}, processes stopped for up to ${longestStopMs / 1000} s`)
  ended(await soak({ seed, minutes, longestStopMs, tell }), 'Everybody agrees.')
}
