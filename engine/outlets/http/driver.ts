import type { HttpServerSettings } from '#shared/outlets/httpServer'
import type { OutletDriver } from '../driver'
import { HttpServerSession } from './session'

export const httpServerDriver: OutletDriver<HttpServerSettings> = {
  open: (context) => new HttpServerSession(context),
}
