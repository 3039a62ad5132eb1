import { findNamed } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { findTags } from '../../displays/named'

export default defineRoute(findNamed, ({ body: { named, in: equipment } }) => findTags(named, equipment))
