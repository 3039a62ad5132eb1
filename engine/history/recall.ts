import type { Stretch } from '#core/equipment/windows'
import type { HistoryReader } from '#db/history/reader'
import type { Recalling } from '../equipment/recalling'
import type { TagRegister } from '../tags/tagRegister'
import type { OpenParcel } from './parcel'
import type { Recorder } from './recorder'

interface Around {
  reader(): HistoryReader | null
  tags: TagRegister
  recorder: Recorder
  parcel: OpenParcel
  /** Resolves once all that came until now is in the database. */
  settled(): Promise<void>
  /** Samples before this are not kept. */
  oldest(now: number): number
}

/** What was told last before a kill may not be on disk. */
const marginMs = 5000
const mostTold = 100_000

/** The record as rollups look into it. */
export const recallOf = ({ reader, tags, recorder, parcel, settled, oldest }: Around): Recalling => {
  const idOf = (path: string) => tags.byPath(path)?.id
  const isRecorded: Recalling['isRecorded'] = ({ id }) => reader() !== null && recorder.isRecorded(id)
  return {
    isRecorded,
    async intervals(path, borders, now) {
      const [id, db] = [idOf(path), reader()]
      if (id === undefined || !db) return null
      await settled()
      return db.intervals(id, borders, now)
    },
    async nextAt(path, from) {
      const [id, db] = [idOf(path), reader()]
      if (id === undefined || !db) return null
      await settled()
      const [next] = await db.samples({ id, from, to: Date.now() + 3_600_000, most: 1 })
      return next?.at ?? null
    },
    async told(tag, from, to) {
      const db = reader()
      if (!db || !isRecorded(tag)) return []
      const [held] = (await db.at([tag.id], [from - 1])).get(tag.id)!
      const within = await db.samples({ id: tag.id, from, to, most: mostTold })
      return held ? [held, ...within] : within
    },
    async missed(tag, of, now) {
      const [id, db] = [idOf(of), reader()]
      if (id === undefined || !db) return null
      await settled()
      const left = await db.leftToMake(tag.id)
      const [last] = (await db.at([tag.id], [now])).get(tag.id)!
      const since = last ? last.at - marginMs : await db.firstAt(id)
      const from = Math.min(left?.from ?? Infinity, since ?? Infinity)
      const stretch: Stretch = { from: Math.max(from, oldest(now)), to: now }
      return from < now ? stretch : null
    },
    noteAgain({ id }, span, isAll) {
      // before anything is asked for: what came is handed over with it
      const known = recorder.isRecorded(id)
      if (known) parcel.noteAgain({ id, span, isAll }, Date.now())
      return known
    },
    correct: ({ id }, at, value, quality) => recorder.correct(id, { at, value, quality }, Date.now()),
  }
}
