import type { Kysely } from 'kysely'
import { visible } from '#core/text/visible'
import { counted } from '#core/text/counted'
import type { Database } from '#db/tables'
import type { AlarmEvent } from '#shared/alarms'
import type { JournalWriter } from '../journal/journal'
import { TableLog } from '../journal/tableLog'

const mostKept = 100_000
/** All tags of a large site may be alarms, and be acknowledged, in one moment. */
const mostWaiting = 50_000

/** What became of alarms, for lists: into the database soon, however it is now. */
export class AlarmLog {
  private log: TableLog<AlarmEvent>

  constructor(
    private db: Kysely<Database>,
    journal: Pick<JournalWriter, 'caution'>,
  ) {
    this.log = new TableLog({
      insert: (events) => this.insert(events),
      trim: () => this.trim(),
      most: mostWaiting,
      lost: (count, why) => journal.caution('Alarms', `${counted(count, 'event')} of alarms lost to the list: ${why}.`),
    })
  }

  add(event: AlarmEvent) {
    this.log.add(event)
  }

  async close() {
    await this.log.close()
  }

  private insert(events: readonly AlarmEvent[]) {
    return this.db
      .insertInto('alarm_event')
      .values(
        events.map(({ at, tagId, path, limit, severity, turn, text, value, who, comment }) => ({
          ...{ at: new Date(at), tag_id: tagId, path, limit, severity, turn },
          ...{ text: visible(text), value: visible(value), who: visible(who), comment: visible(comment) },
        })),
      )
      .execute()
  }

  private async trim() {
    const { db } = this
    const last = await db.selectFrom('alarm_event').select('id').orderBy('id', 'desc').offset(mostKept).limit(1).executeTakeFirst()
    if (last) await db.deleteFrom('alarm_event').where('id', '<=', last.id).execute()
  }
}
