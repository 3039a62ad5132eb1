import type { H3Event } from 'h3'
import { visible } from '#core/text/visible'
import type { DeedKind } from '#shared/deeds'
import { addressOf } from '../access/guessing'
import { database } from '../store/database'

interface Deed {
  who: string
  kind: DeedKind
  what: string
  ok?: boolean
}

/** Records what somebody did. What cannot be recorded now is told in the log, and holds up nobody. */
export const recordDeed = async (event: H3Event, { who, kind, what, ok = true }: Deed): Promise<void> => {
  const deed = { at: new Date(), place: addressOf(event), who: visible(who), kind, what, ok }
  await database()
    .insertInto('deed')
    .values(deed)
    .execute()
    .catch((error: Error) => console.error(`A deed is not recorded (${error.message}): ${JSON.stringify(deed)}`))
}
