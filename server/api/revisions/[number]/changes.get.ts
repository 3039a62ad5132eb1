import { differencesBetween } from '#core/text/differences'
import { changesOfRevision, thingIn, type ThingChange } from '#db/revisionChanges'
import { listRevisionChanges, type RevisionChange } from '#shared/api/site'
import { mapSecrets } from '#shared/secrets'
import { wordsOf } from '#core/lists/paged'
import { defineRoute } from '../../../answers/route'
import { database } from '../../../store/database'
import { containing } from '../../../store/likeText'

export default defineRoute(listRevisionChanges, async ({ params: { number }, query: { find, sort, offset, limit } }) => {
  const names = wordsOf(find).map(containing)
  const { total, changes } = await changesOfRevision(database(), number, { names, offset, limit, isDown: sort === '-thing' })
  return { total, offset, items: changes.map(shown) }
})

const shown = ({ subject, thing: id, what, before, after }: ThingChange): RevisionChange => {
  const [was, is] = [thingIn(subject, before), thingIn(subject, after)]
  const fields = differencesBetween(was && marked(was.thing), is && marked(is.thing))
  return { subject, id, name: (is ?? was)?.name ?? '', what, fields: fields.map(masked) }
}

/** Nothing that a person or a device says begins so. */
const secretMark = '\u0000'

/** Secrets become marks that differ as they do; what they are stays here. */
const marked = (thing: unknown) => mapSecrets(thing, (secret) => `${secretMark}${JSON.stringify(secret)}`)

const masked = ({ field, before, after }: RevisionChange['fields'][number]) => {
  const [was, is] = [before, after].map((text) => text?.startsWith(secretMark) ?? false)
  return { field, before: was ? 'a secret' : before, after: is ? (was ? 'another secret' : 'a secret') : after }
}
