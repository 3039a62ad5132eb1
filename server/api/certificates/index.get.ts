import { readable, thingOf } from '#db/rows'
import { certificateFacts } from '#security/certificateFacts'
import { database } from '../../store/database'
import { defineRoute } from '../../answers/refusal'

/** Everybody's certificate that was decided about, by name, with who decided and when. */
export default defineRoute('look', async () => {
  const rows = await database()
    .selectFrom('certificate')
    .innerJoin('revision', 'revision.number', 'certificate.revision')
    .selectAll('certificate')
    .select(['revision.who', 'revision.at'])
    .orderBy('certificate.name')
    .execute()
  return readable(rows, ({ who, at, ...row }) => ({
    ...thingOf('certificate', row),
    who,
    at,
    facts: certificateFacts(Buffer.from(row.der, 'base64')),
  }))
})
