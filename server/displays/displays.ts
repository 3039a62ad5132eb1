import type { Row } from '#db/editor'
import { readable, thingOf } from '#db/rows'
import type { Display } from '#shared/displays'
import { database } from '../store/database'

export const shownDisplay = (row: Row<'display'>): Display => thingOf('display', row)

export const allDisplays = async (): Promise<Display[]> =>
  readable(await database().selectFrom('display').selectAll().execute(), shownDisplay)
