import { listRelays } from '#shared/api/relays'
import { defineRoute } from '../../answers/route'
import { relays } from '../../relays/relays'

export default defineRoute(listRelays, () => relays())
