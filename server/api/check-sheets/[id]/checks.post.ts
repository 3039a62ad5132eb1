import { takeChecks } from '#shared/api/checks'
import { requireWho } from '../../../access/access'
import { defineRoute } from '../../../answers/route'
import { takeIn } from '../../../checks/takeIn'

export default defineRoute(takeChecks, ({ event, params: { id }, body: { checks } }) => takeIn(id, requireWho(event).name, checks))
