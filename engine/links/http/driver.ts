import { fault } from '#core/faults/catalogue'
import type { HttpSettings } from '#core/http/settings'
import type { LinkDriver } from '../driver'
import { callOnce } from './callOnce'
import { checkHttp } from './check'
import { fetchText } from './fetchText'
import { HttpLinkSession } from './session'

export const httpDriver: LinkDriver<HttpSettings> = {
  open: (context) => new HttpLinkSession(context),
  check: checkHttp,
  call: callOnce,
  fetchText,
  // the secrets of its sign-in belong to the session
  tryRead: (_settings, { address }) =>
    Promise.resolve({ stages: [], readings: [], wordsFrom: address, goesTo: [], fault: fault('link.off', { name: '' }) }),
}
