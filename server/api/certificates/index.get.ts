import { readable, thingOf } from '#db/rows'
import { certificateFacts } from '#security/certificateFacts'
import { listCertificates } from '#shared/api/certificates'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(listCertificates, async ({ query }) => {
  const rows = await database()
    .selectFrom('certificate')
    .innerJoin('revision', 'revision.number', 'certificate.revision')
    .selectAll('certificate')
    .select(['revision.who', 'revision.at'])
    .execute()
  const listed = readable(rows, ({ who, at, ...row }) => ({
    ...thingOf('certificate', row),
    who,
    at: at.toISOString(),
    facts: certificateFacts(Buffer.from(row.der, 'base64')),
  }))
  return pageOfArray(listed, query, {
    text: ({ name, who, facts }) => `${name} ${who} ${facts.hosts.join(' ')}`,
    by: {
      name: ({ name }) => name,
      verdict: ({ verdict }) => verdict,
      at: ({ at }) => at,
      id: ({ id }) => id,
      revision: ({ revision }) => revision,
    },
  })
})
