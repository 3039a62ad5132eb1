import type { Component } from 'vue'
import { outletFactsOf, type OutletKind } from '#core/outlets/registry'
import type { FieldMessage } from '#shared/faults'
import type { Link } from '#shared/links/link'
import { doorsOf } from '#shared/outlets/doors'
import { httpServerSettings } from '#shared/outlets/httpServer'
import { httpServerProblems } from '#shared/outlets/httpServerProblems'
import { modbusServerSettings } from '#shared/outlets/modbusServer'
import { mqttBrokerSettings } from '#shared/outlets/mqttBroker'
import { opcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { Outlet, OutletDraft, OutletSettingsOf } from '#shared/outlets/outlet'
import CloudForm from '~/components/outlets/cloud/CloudForm.vue'
import CloudView from '~/components/outlets/cloud/CloudView.vue'
import HttpServerForm from '~/components/outlets/http/HttpServerForm.vue'
import HttpServerView from '~/components/outlets/http/HttpServerView.vue'
import ModbusServerForm from '~/components/outlets/modbus/ModbusServerForm.vue'
import ModbusServerView from '~/components/outlets/modbus/ModbusServerView.vue'
import MqttBrokerForm from '~/components/outlets/mqtt/MqttBrokerForm.vue'
import MqttBrokerView from '~/components/outlets/mqtt/MqttBrokerView.vue'
import OpcuaServerForm from '~/components/outlets/opcua/OpcuaServerForm.vue'
import OpcuaServerView from '~/components/outlets/opcua/OpcuaServerView.vue'
import { blankCloud } from './blankCloud'

interface OutletFace<S> {
  /** Its settings; the model is these, a slot `head` takes name and switch, a slot `foot` what saves. */
  form: Component
  /** How it is, on its page; a slot takes the list of clients. */
  view: Component
  /** What somebody who opens the first one should know. */
  hint: string
  /** What is wrong with its settings that their contract cannot tell. */
  problems?(settings: S, links: readonly Link[]): FieldMessage[]
  /** The settings of a new one beside those that are there. */
  blank(others: readonly Outlet[], site: string): S
}

/** The first port from the usual one on that no other outlet has. */
const freePort = (usual: number, others: readonly Outlet[]): number => {
  const taken = new Set(others.flatMap(({ settings }) => doorsOf(settings).map(({ port }) => port)))
  let port = usual
  while (taken.has(port)) port++
  return port
}

/** The face of every kind of outlet. A new one adds its entry here. */
const faces: { [K in OutletKind]: OutletFace<OutletSettingsOf<K>> } = {
  'opcua-server': {
    form: OpcuaServerForm,
    view: OpcuaServerView,
    hint: 'A new one listens on this machine’s loopback address only, without security, so nobody else can reach it, until you open a door to others.',
    blank: (others) => opcuaServerSettings.parse({ doors: [{ port: freePort(4840, others) }] }),
  },
  'mqtt-broker': {
    form: MqttBrokerForm,
    view: MqttBrokerView,
    hint: 'A new one listens on this machine’s loopback address only and lets clients listen to every tag, and send nothing, until you say otherwise.',
    blank: (others) => mqttBrokerSettings.parse({ doors: [{ port: freePort(1883, others) }] }),
  },
  'http-server': {
    form: HttpServerForm,
    view: HttpServerView,
    hint: 'A new one listens on this machine’s loopback address only and lets programs read every tag, and set none, until you say otherwise.',
    problems: httpServerProblems,
    blank: (others) => httpServerSettings.parse({ doors: [{ port: freePort(8580, others) }] }),
  },
  'modbus-server': {
    form: ModbusServerForm,
    view: ModbusServerView,
    hint: 'A new one listens on this machine’s loopback address only and lets clients read what is mapped, and write nothing, until you say otherwise.',
    blank: (others) => modbusServerSettings.parse({ doors: [{ port: freePort(502, others) }] }),
  },
  'cloud-platform': {
    form: CloudForm,
    view: CloudView,
    hint: 'All equipment with its values goes there, and tags of the folders that you name. Its classes and equipment are made there once you saw what will be done.',
    blank: (_, site) => blankCloud(site),
  },
}

/** Face and settings go together by the kind; TypeScript cannot follow that through a variable. */
export const outletFaceOf = (kind: OutletKind) => faces[kind] as unknown as OutletFace<OutletDraft['settings']>

/** A new outlet of a kind, named after it where it is the first. */
export const blankOutlet = (kind: OutletKind, others: readonly Outlet[], site: string): OutletDraft => ({
  name: others.some((other) => other.kind === kind) ? '' : outletFactsOf(kind).title,
  kind,
  on: true,
  nodeId: null,
  settings: outletFaceOf(kind).blank(others, site),
})
