import { fault } from '#core/faults/catalogue'
import type { IoLinkSettings } from '#core/iolink/settings'
import type { LinkDriver } from '../driver'
import { checkIoLink } from './check'
import { IoLinkSession } from './session'

export const ioLinkDriver: LinkDriver<IoLinkSettings> = {
  open: (context) => new IoLinkSession(context),
  check: checkIoLink,
  // the secrets of its sign-in belong to the session
  tryRead: (_settings, { address }) =>
    Promise.resolve({ stages: [], readings: [], wordsFrom: address, goesTo: [], fault: fault('link.off', { name: '' }) }),
}
