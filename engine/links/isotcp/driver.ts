import type { IsoTcpSettings } from '#core/isotcp/settings'
import type { LinkDriver } from '../driver'
import { checkIsoTcp } from './check'
import { IsoTcpSession } from './session'
import { tryReadIsoTcp } from './tryRead'

export const isoTcpDriver: LinkDriver<IsoTcpSettings> = {
  open: (context) => new IsoTcpSession(context),
  check: checkIsoTcp,
  tryRead: tryReadIsoTcp,
}
