import { join } from 'node:path'
import pino from 'pino'
import { openControl } from './control/server'
import { Port } from './port'

/** All stand-ins in one process of their own. Ports come from the launcher. */
const main = async () => {
  const log = pino({ base: { process: 'stand-ins' } })
  const port = new Port()
  const modbusPort = await port.gateway.listen(Number(process.env.CONDUIT_STANDIN_MODBUS_PORT ?? 0))
  port.start()
  const control = openControl(port, join(import.meta.dirname, 'page.html'))
  control.listen(Number(process.env.CONDUIT_STANDIN_PORT ?? 0), '127.0.0.1')
  log.info({ modbusPort }, 'feeder meters 11, 12 and 13 answer')

  const stop = () => {
    port.stop()
    control.close()
    void port.gateway.close().then(() => process.exit(0))
    setTimeout(() => process.exit(0), 2000).unref()
  }
  process.once('SIGTERM', stop)
  process.once('SIGINT', stop)
  process.once('disconnect', stop)
}

await main()
