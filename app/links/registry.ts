import type { Component } from 'vue'
import type { LinkKind } from '#core/links/registry'
import { parseEndpoint } from '#core/opcua/endpointAddress'
import type { LinkSettings, SettingsOf } from '#shared/links/link'
import { linkContracts } from '#shared/links/registry'
import BacnetForm from '~/components/links/BacnetForm.vue'
import BacnetPointForm from '~/components/links/BacnetPointForm.vue'
import PriorityPanel from '~/components/links/PriorityPanel.vue'
import HttpForm from '~/components/links/HttpForm.vue'
import HttpPointForm from '~/components/links/HttpPointForm.vue'
import FilesForm from '~/components/links/FilesForm.vue'
import IoLinkForm from '~/components/links/IoLinkForm.vue'
import IoLinkPointForm from '~/components/links/IoLinkPointForm.vue'
import IsoTcpForm from '~/components/links/IsoTcpForm.vue'
import IsoTcpPointForm from '~/components/links/IsoTcpPointForm.vue'
import ModbusLineForm from '~/components/links/ModbusLineForm.vue'
import ModbusPointForm from '~/components/links/ModbusPointForm.vue'
import ModbusTcpForm from '~/components/links/ModbusTcpForm.vue'
import MqttForm from '~/components/links/MqttForm.vue'
import MqttPointForm from '~/components/links/MqttPointForm.vue'
import NoPointForm from '~/components/links/NoPointForm.vue'
import OpcuaForm from '~/components/links/OpcuaForm.vue'
import OpcuaPointForm from '~/components/links/OpcuaPointForm.vue'
import ProgramTags from '~/components/links/ProgramTags.vue'
import SensorArrivals from '~/components/links/SensorArrivals.vue'
import SensorPorts from '~/components/links/SensorPorts.vue'
import SqlForm from '~/components/links/SqlForm.vue'

interface LinkForm<S = LinkSettings> {
  component: Component
  /** What a point of such a link is asked besides its address and type. */
  pointForm: Component
  /** It wants the wider of two columns. */
  isWide?: true
  /** What wants a decision of somebody before all else. */
  first?: Component
  /** What stands beside its settings and tells how it is; absent: its parts, or how many tags are good. */
  beside?: Component
  /** What stands beside the value of one of its tags, where the protocol knows more of it. */
  besideValue?: Component
  /** Where a file of the far side’s program tells its points: what reads one. */
  program?: Component
  addressExample: string
  /** The settings of a new link, before anything is typed. */
  blank(): S
  /** A suggestion for the name of a new link, from what is typed so far. */
  suggestName(settings: S): string
}

/** The forms of every link kind. A new protocol adds its entry here. */
const forms: { [K in LinkKind]: LinkForm<SettingsOf<K>> } = {
  'modbus-tcp': {
    component: ModbusTcpForm,
    pointForm: ModbusPointForm,
    addressExample: 'holding/40 or 40041 or 400041',
    blank: () => ({ ...linkContracts['modbus-tcp'].settings.parse({ host: 'none' }), host: '' }),
    suggestName: ({ host }) => (host ? `Device at ${host}` : ''),
  },
  'modbus-line': {
    component: ModbusLineForm,
    pointForm: ModbusPointForm,
    addressExample: '3:holding/40 or 3:400041',
    blank: () => linkContracts['modbus-line'].settings.parse({ line: { over: 'port', device: '/dev/ttyUSB0' } }),
    suggestName: ({ line }) =>
      line.over === 'port' ? `Line at ${line.device.split('/').at(-1)}` : line.host ? `Line behind ${line.host}` : '',
  },
  'iso-tcp': {
    component: IsoTcpForm,
    pointForm: IsoTcpPointForm,
    program: ProgramTags,
    addressExample: 'DB10.4 or DB10.DBX4.0 or MW20',
    blank: () => ({ ...linkContracts['iso-tcp'].settings.parse({ host: 'none' }), host: '' }),
    suggestName: ({ host }) => (host ? `Controller at ${host}` : ''),
  },
  'bacnet-ip': {
    component: BacnetForm,
    pointForm: BacnetPointForm,
    besideValue: PriorityPanel,
    addressExample: '4001:AV3 or 4001:analog-value/3.units',
    blank: () => linkContracts['bacnet-ip'].settings.parse({}),
    suggestName: ({ localAddress, devices }) =>
      devices[0] ? `Device ${devices[0].instance}` : localAddress ? `Building services at ${localAddress}` : 'Building services',
  },
  iolink: {
    component: IoLinkForm,
    pointForm: IoLinkPointForm,
    first: SensorArrivals,
    beside: SensorPorts,
    addressExample: '1:in/16+16 or 1:parameter/80',
    blank: () => ({ ...linkContracts.iolink.settings.parse({ base: 'http://none' }), base: '' }),
    suggestName: ({ base }) => (URL.canParse(base) ? `Sensor master at ${new URL(base).hostname}` : ''),
  },
  opcua: {
    component: OpcuaForm,
    pointForm: OpcuaPointForm,
    addressExample: 'nsu=urn:port:arm;s=Plug.Position',
    blank: () => ({ ...linkContracts.opcua.settings.parse({ address: 'none' }), address: '' }),
    suggestName: ({ address }) => {
      const parsed = parseEndpoint(address)
      return parsed.ok ? `Server at ${parsed.address.host}` : ''
    },
  },
  mqtt: {
    component: MqttForm,
    pointForm: MqttPointForm,
    addressExample: 'quay/lamp/3',
    blank: () => ({ ...linkContracts.mqtt.settings.parse({ host: 'none' }), host: '', clientId: madeClientId() }),
    suggestName: ({ host }) => (host ? `Broker at ${host}` : ''),
  },
  http: {
    component: HttpForm,
    pointForm: HttpPointForm,
    isWide: true,
    addressExample: 'tariff?zone=north',
    blank: () => ({ ...linkContracts.http.settings.parse({ base: 'http://none' }), base: '' }),
    suggestName: ({ base }) => (URL.canParse(base) ? `Web API at ${new URL(base).hostname}` : ''),
  },
  sql: {
    component: SqlForm,
    pointForm: NoPointForm,
    addressExample: '',
    blank: () => ({
      ...linkContracts.sql.settings.parse({ host: 'none', database: 'none', user: 'none', password: { plain: 'none' } }),
      ...{ host: '', database: '', user: '', password: { plain: '' } },
    }),
    suggestName: ({ database }) => (database ? `Database ${database}` : ''),
  },
  files: {
    component: FilesForm,
    pointForm: NoPointForm,
    addressExample: '',
    blank: () => linkContracts.files.settings.parse({}),
    suggestName: ({ folder }) => (folder ? `Files in ${folder}` : 'Files'),
  },
}

/** A client id is made once, shown, and kept with the link. */
const madeClientId = () => `conduit-${crypto.getRandomValues(new Uint32Array(1))[0]!.toString(36)}`

/** Settings and form go together by the kind; TypeScript cannot follow that through a variable. */
export const linkForms = forms as unknown as Record<LinkKind, LinkForm>
