import { expect, it } from 'vitest'
import { provePlaces } from '../support/placesSoak'

/** The long form: `CONDUIT_PLACES_MINUTES=20 CONDUIT_SEED=7 npx vitest run --project engine tests/engine/places.test.ts`. */
const minutes = Number(process.env.CONDUIT_PLACES_MINUTES ?? 0.5)
const seed = Number(process.env.CONDUIT_SEED ?? 3)

it(
  `what each place recorded is there once, whoever was killed, stopped or cut off (seed ${seed})`,
  async () => {
    const report = await provePlaces({ seed, minutes, tell: (text) => minutes > 1 && console.log(text) })
    if (minutes > 1) console.log(JSON.stringify(report, null, 2))
    expect(report.problems).toEqual([])
    expect(Object.keys(report.happened).length).toBeGreaterThan(2)
    for (const count of Object.values(report.samples)) expect(count).toBeGreaterThan(100)
  },
  (minutes * 60 + 300) * 1000,
)
