import type { ThingOf } from '#db/subjects'
import { newsIn, nothingDifferent, type Difference } from '#engine/configuration/site'
import type { Engine } from '#engine/engine'

type Things = { [S in keyof ThingOf]?: ThingOf[S][] }

/** A reading of everything, as it comes from the database. */
export const everything = (revision: number, things: Things): Difference => {
  const all = nothingDifferent(revision)
  for (const [subject, list] of Object.entries(things)) all.parts[subject as 'link'].set = list as never
  return all
}

/** Has the engine run on these things, and no others. */
export const configure = (engine: Engine, revision: number, things: Things) =>
  engine.apply(newsIn(everything(revision, things), engine.wanted))
