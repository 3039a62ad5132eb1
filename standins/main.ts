import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import pino from 'pino'
import { CloudDoor } from './cloud/http'
import { CloudBroker } from './cloud/mqtt'
import { PortCloud } from './cloud/platform'
import { openControl } from './control/server'
import { TariffService } from './http/tariffService'
import { Quay } from './mqtt/quay'
import { ArmServer } from './opcua/armServer'
import { pairFor } from './pair'
import { Port } from './port'

/** Points under Diagnostics of each arm; the one of berth 2 has many. */
const cells = [40, 5000, 0]

/** All stand-ins in one process of their own. Ports come from the launcher. */
const main = async () => {
  const log = pino({ base: { process: 'stand-ins' } })
  const port = new Port()
  const modbusPort = await port.gateway.listen(Number(process.env.CONDUIT_STANDIN_MODBUS_PORT ?? 0))
  const linePort = await port.line.listen(Number(process.env.CONDUIT_STANDIN_LINE_PORT ?? 0))
  const converterPort = await port.converter.controller.listen(Number(process.env.CONDUIT_STANDIN_CONVERTER_PORT ?? 0))
  const ventilationPort = await port.substation.ventilation.listen(Number(process.env.CONDUIT_STANDIN_VENTILATION_PORT ?? 0))
  const transformerPort = await port.substation.transformer.listen(Number(process.env.CONDUIT_STANDIN_TRANSFORMER_PORT ?? 0))
  const sensorPort = await port.sensors.master.listen(Number(process.env.CONDUIT_STANDIN_SENSOR_PORT ?? 0))
  port.start()
  // the third is plugged in once people had time to look
  const later = setTimeout(
    () => port.sensors.master.plug(3, port.sensors.surface),
    Number(process.env.CONDUIT_STANDIN_PLUG_AFTER ?? 60_000),
  )
  later.unref()
  const armPorts = (process.env.CONDUIT_STANDIN_ARM_PORTS ?? '0,0,0').split(',').filter(Boolean).map(Number)
  const folder = join(process.env.CONDUIT_STATE ?? '.', 'stand-ins')
  const arms = port.arms
    .slice(0, armPorts.length)
    .map((arm, i) => new ArmServer(arm, { folder: join(folder, `arm-${arm.number}`), port: armPorts[i]!, cells: cells[i] ?? 0 }))
  const quay = new Quay()
  const quayPort = await quay.listen(Number(process.env.CONDUIT_STANDIN_QUAY_PORT ?? 0))
  const tariff = new TariffService()
  const tariffPort = await tariff.listen(Number(process.env.CONDUIT_STANDIN_TARIFF_PORT ?? 0))
  const { port: tariffSecuredPort, authority } = await tariff.listenSecured(Number(process.env.CONDUIT_STANDIN_TARIFF_SECURED_PORT ?? 0))
  mkdirSync(folder, { recursive: true })
  writeFileSync(join(folder, 'tariff-service.pem'), authority)
  const cloud = new PortCloud()
  const cloudDoor = new CloudDoor(cloud, readFileSync(join(import.meta.dirname, 'cloud.html'), 'utf8'))
  const cloudPort = await cloudDoor.listen(Number(process.env.CONDUIT_STANDIN_CLOUD_PORT ?? 0))
  const cloudPair = await pairFor('cloud')
  const cloudBroker = new CloudBroker(cloud, cloudPair)
  const cloudMqttPort = await cloudBroker.listen(Number(process.env.CONDUIT_STANDIN_CLOUD_MQTT_PORT ?? 0))
  writeFileSync(join(folder, 'port-cloud.pem'), cloudPair.cert)
  const standIns = { port, quay, tariff, arms: [] as ArmServer[], ready: false }
  const control = openControl(standIns, join(import.meta.dirname, 'page.html'))
  control.listen(Number(process.env.CONDUIT_STANDIN_PORT ?? 0), '127.0.0.1')
  // each loads the standard's node set, which takes a second or two; the meters need not wait for that
  void (async () => {
    for (const arm of arms) {
      await arm.start()
      standIns.arms.push(arm)
    }
    standIns.ready = true
  })()
  log.info(
    {
      modbusPort,
      linePort,
      converterPort,
      ventilationPort,
      transformerPort,
      sensorPort,
      quayPort,
      tariffPort,
      tariffSecuredPort,
      cloudPort,
      cloudMqttPort,
      armPorts: arms.map((arm) => arm.port),
    },
    'feeder meters, frequency converter, substation, sensors, quay, tariff service, port cloud and cable arms answer',
  )

  const stop = () => {
    port.stop()
    port.substation.close()
    control.close()
    void Promise.all([
      port.gateway.close(),
      port.line.close(),
      port.converter.controller.close(),
      port.sensors.close(),
      quay.close(),
      tariff.close(),
      cloudDoor.close(),
      cloudBroker.close(),
      ...arms.map((arm) => arm.stop()),
    ]).then(() => process.exit(0))
    setTimeout(() => process.exit(0), 2000).unref()
  }
  process.once('SIGTERM', stop)
  process.once('SIGINT', stop)
  process.once('disconnect', stop)
}

await main()
