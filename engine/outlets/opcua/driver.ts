import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { OutletDriver } from '../driver'
import { OpcuaServerSession } from './session'

export const opcuaServerDriver: OutletDriver<OpcuaServerSettings> = {
  open: (context) => new OpcuaServerSession(context),
}
