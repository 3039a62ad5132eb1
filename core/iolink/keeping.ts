import { whyNotKept as whyHttpNotKept } from '../http/keeping'
import { httpSettings, type HttpSettings } from '../http/settings'
import type { IoLinkSettings } from './settings'

/** What a call needs to know of its way to a master. */
export const httpOf = ({ base, trust, signIn, patience, atOnce }: IoLinkSettings): HttpSettings =>
  httpSettings.parse({ base, trust, signIn, patience, atOnce })

/** Why a kept secret must not simply go on being used after a change of the settings; null: it goes where it went before. */
export const whyNotKept = (before: IoLinkSettings, after: IoLinkSettings): string | null => whyHttpNotKept(httpOf(before), httpOf(after))
