import {
  AccessLevelFlag,
  type AddressSpace,
  DataType,
  DataValue,
  EnumValueType,
  LocalizedText,
  type Namespace,
  type NodeIdLike,
  StatusCodes,
  type UAObject,
  type UAVariable,
  Variant,
  VariantArrayType,
  WellKnownRoles,
  allPermissions,
  coerceInt64,
  makePermissionFlag,
} from 'node-opcua'
import type { CableArm } from '../physics/cableArm'

export const typesUri = 'urn:harrow-sound:cable-arm:types'
export const spareUri = 'urn:harrow-sound:cable-arm:spare'
/** The application, and the namespace of its nodes. */
export const armUri = (number: number) => `urn:harrow-sound:cable-arm:${number}`
export const armNamespace = (number: number) => `${armUri(number)}:program`

/** What the address space asks of its surroundings. */
export interface Clock {
  now(): Date
}

interface Shown {
  id: string
  name: string
  type: DataType
  get(): unknown
  set?(value: never): void
  array?: boolean
  unit?: string
  range?: [low: number, high: number]
  /** What its values are called. */
  states?: readonly [value: number, name: string][]
  description?: string
  dataType?: NodeIdLike
}

/** Builds the arm's address space: a global scope and one per program, values straight from the physics. */
export class ArmNodes {
  constructor(
    private addressSpace: AddressSpace,
    private namespace: Namespace,
    private arm: CableArm,
    private clock: Clock,
  ) {}

  build(cells: number) {
    const root = this.folder(this.addressSpace.rootFolder.objects, 'CableArm', 'Arm')
    this.global(this.folder(root, 'Global', 'Global'))
    const programs = this.folder(root, 'Programs', 'Programs')
    this.plug(this.folder(programs, 'Plug', 'Plug'))
    this.reel(this.folder(programs, 'Reel', 'Reel'))
    this.safety(this.folder(programs, 'Safety', 'Safety'))
    if (cells > 0) this.cells(this.folder(root, 'Diagnostics', 'Diagnostics'), cells)
  }

  private global(folder: UAObject) {
    const { state } = this.arm
    this.show(folder, { id: 'Global.Berth', name: 'Berth', type: DataType.Byte, get: () => this.arm.number })
    this.show(folder, { id: 'Global.SerialNumber', name: 'SerialNumber', type: DataType.String, get: () => `CA-20${this.arm.number}7` })
    this.show(folder, { id: 'Global.Current', name: 'Current', type: DataType.Float, get: () => state.current, unit: 'A', range: [0, 400] })
    this.show(folder, {
      id: 'Global.Extension',
      name: 'Extension',
      type: DataType.Float,
      get: () => 0,
      unit: 'm',
      range: [0, 4.5],
      description: 'Set aside by the program Plug; not in use',
    })
    this.show(folder, { id: 'Global.HomedAt', name: 'HomedAt', type: DataType.DateTime, get: () => new Date(state.homedAt) })
    this.show(folder, {
      id: 'Global.Operations',
      name: 'Operations',
      type: DataType.UInt64,
      get: () => [0, 18_204 + this.arm.number],
      description: 'Couplings since it was built',
    })
  }

  private plug(folder: UAObject) {
    const { state } = this.arm
    const position = this.folder(folder, 'Position', 'Plug.Position')
    const meters = { unit: 'm', range: [0, 4.5] as [number, number] }
    this.show(position, { id: 'Plug.Position.Extension', name: 'Extension', type: DataType.Float, get: () => state.extension, ...meters })
    this.show(position, {
      id: 'Plug.Position.Slew',
      name: 'Slew',
      type: DataType.Float,
      get: () => state.slew,
      unit: '°',
      range: [-90, 90],
    })
    this.show(position, {
      id: 'Plug.Position.Elevation',
      name: 'Elevation',
      type: DataType.Float,
      get: () => state.elevation,
      unit: '°',
      range: [-10, 80],
    })
    this.show(position, { id: 'Plug.Position.InEnvelope', name: 'InEnvelope', type: DataType.Boolean, get: () => this.arm.inEnvelope })
    this.show(position, {
      id: 'Plug.Position.SeatForce',
      name: 'SeatForce',
      type: DataType.Float,
      get: () => state.seatForce,
      unit: 'kN',
      range: [0, 12],
    })
    this.show(position, {
      id: 'Plug.Position.Limits',
      name: 'Limits',
      type: DataType.Float,
      array: true,
      get: () => Float32Array.of(0, 4.5, -90, 90, -10, 80),
      description: 'Lowest and highest extension, slew, elevation',
    })
    this.structure(position)
    const target = this.folder(folder, 'Target', 'Plug.Target')
    this.show(target, {
      id: 'Plug.Target.Extension',
      name: 'Extension',
      type: DataType.Float,
      get: () => state.targetExtension,
      set: (value: number) => (state.targetExtension = value),
      ...meters,
    })
    const contacts = this.folder(folder, 'Temperatures', 'Plug.Temperatures')
    this.show(contacts, {
      id: 'Plug.Temperatures.Contacts',
      name: 'Contacts',
      type: DataType.Double,
      array: true,
      get: () => Float64Array.from(state.contacts),
      unit: '°C',
    })
    this.method(folder)
  }

  private reel(folder: UAObject) {
    const { state } = this.arm
    this.show(folder, {
      id: 'Reel.Extension',
      name: 'Extension',
      type: DataType.Float,
      get: () => 12 + state.extension,
      unit: 'm',
      range: [0, 60],
    })
    this.show(folder, { id: 'Reel.Step', name: 'Step', type: DataType.Int16, get: () => state.step, states: steps })
  }

  private safety(folder: UAObject) {
    const { state } = this.arm
    this.show(folder, { id: 'Safety.PilotClosed', name: 'PilotClosed', type: DataType.Boolean, get: () => state.pilotClosed })
    this.show(folder, { id: 'Safety.Clamped', name: 'Clamped', type: DataType.Boolean, get: () => state.clamped, states: clamp })
  }

  /** Many points that differ, for whoever needs many: a slow wave each, computed when asked. */
  private cells(folder: UAObject, count: number) {
    for (let i = 0; i < count; i++) {
      const name = `Cell${String(i + 1).padStart(4, '0')}`
      this.show(folder, { id: `Diagnostics.${name}`, name, type: DataType.Float, get: () => cellValue(i, this.clock.now().getTime()) })
    }
  }

  private structure(folder: UAObject) {
    const types = this.addressSpace.getNamespaceIndex(typesUri)
    const dataType = this.addressSpace.findDataType('ArmPosition', types)!
    const { state } = this.arm
    this.show(folder, {
      id: 'Plug.Position.Actual',
      name: 'Actual',
      type: DataType.ExtensionObject,
      dataType: dataType.nodeId,
      get: () =>
        this.addressSpace.constructExtensionObject(dataType, {
          extension: state.extension,
          slew: state.slew,
          elevation: state.elevation,
          inEnvelope: this.arm.inEnvelope,
          target: { extension: state.targetExtension, slew: state.targetSlew },
        }),
      description: 'The whole position as one structure',
    })
  }

  private method(folder: UAObject) {
    const method = this.namespace.addMethod(folder, {
      nodeId: 's=Plug.Retract',
      browseName: 'Retract',
      inputArguments: [],
      outputArguments: [{ name: 'accepted', dataType: DataType.Boolean }],
    })
    method.bindMethod((_inputs, _context, callback) => {
      const accepted = !this.arm.berth.state.breakerClosed
      if (accepted) this.arm.state.retracting = true
      callback(null, { statusCode: StatusCodes.Good, outputArguments: [new Variant({ dataType: DataType.Boolean, value: accepted })] })
    })
  }

  private folder(parent: UAObject, name: string, id: string): UAObject {
    return this.namespace.addFolder(parent, { browseName: name, nodeId: `s=${id}` })
  }

  private show(folder: UAObject, shown: Shown) {
    const { id, name, type, get, set, array, unit, range, states, description } = shown
    const access = AccessLevelFlag.CurrentRead | (set ? AccessLevelFlag.CurrentWrite : 0)
    const common = {
      componentOf: folder,
      nodeId: `s=${id}`,
      browseName: name,
      description,
      dataType: shown.dataType ?? type,
      valueRank: array ? 1 : -1,
      ...(array ? { arrayDimensions: [0] } : {}),
      accessLevel: access,
      userAccessLevel: access,
      minimumSamplingInterval: 50,
    }
    const variable =
      unit && range
        ? this.namespace.addAnalogDataItem({
            ...common,
            engineeringUnitsRange: { low: range[0], high: range[1] },
            engineeringUnits: euInformation(unit),
          })
        : this.namespace.addVariable({ ...common, ...(states ? { typeDefinition: discrete(type) } : {}) })
    if (states) this.nameStates(variable, type, states)
    this.bind(variable, type, array ?? false, get, set)
    if (set) letOnlyUsersWrite(variable)
  }

  /** As OPC 10000-8, 5.3.3 has it. */
  private nameStates(variable: UAVariable, type: DataType, states: NonNullable<Shown['states']>) {
    const property = { propertyOf: variable, typeDefinition: 'PropertyType', accessLevel: AccessLevelFlag.CurrentRead }
    const add = (browseName: string, dataType: string, value: Variant) =>
      this.namespace.addVariable({
        ...property,
        browseName: { name: browseName, namespaceIndex: 0 },
        dataType,
        valueRank: value.arrayType === VariantArrayType.Array ? 1 : -1,
        value,
      })
    if (type !== DataType.Boolean)
      return void add(
        'EnumValues',
        'EnumValueType',
        new Variant({
          dataType: DataType.ExtensionObject,
          arrayType: VariantArrayType.Array,
          value: states.map(([value, text]) => new EnumValueType({ value: coerceInt64(value), displayName: { text } })),
        }),
      )
    for (const [value, text] of states)
      add(
        value === 0 ? 'FalseState' : 'TrueState',
        'LocalizedText',
        new Variant({ dataType: DataType.LocalizedText, value: new LocalizedText({ text }) }),
      )
  }

  private bind(variable: UAVariable, type: DataType, array: boolean, get: () => unknown, set?: (value: never) => void) {
    variable.bindVariable(
      {
        timestamped_get: () => {
          const now = this.clock.now()
          const value = new Variant({ dataType: type, arrayType: array ? VariantArrayType.Array : VariantArrayType.Scalar, value: get() })
          return new DataValue({ value, statusCode: StatusCodes.Good, sourceTimestamp: now, serverTimestamp: now })
        },
        ...(set
          ? {
              timestamped_set: (dataValue: DataValue) => {
                set(dataValue.value.value as never)
                return Promise.resolve(StatusCodes.Good)
              },
            }
          : {}),
      } as never,
      true,
    )
  }
}

const steps: Shown['states'] = [
  [10, 'reaches out'],
  [40, 'coupled'],
  [70, 'draws back'],
]
const clamp: Shown['states'] = [
  [0, 'free'],
  [1, 'clamped'],
]
const discrete = (type: DataType) => (type === DataType.Boolean ? 'TwoStateDiscreteType' : 'MultiStateValueDiscreteType')

/** Each cell moves on its own period, between 0 and 100. */
export const cellValue = (index: number, time: number) => 50 + 50 * Math.sin(time / (900 + (index % 97) * 40) + index)

const euInformation = (symbol: string) => ({
  namespaceUri: 'http://www.opcfoundation.org/UA/units/un/cefact',
  unitId: -1,
  displayName: { text: symbol },
  description: { text: symbol },
})

/** Strangers look, users write (OPC 10000-3, 4.9.2). */
const letOnlyUsersWrite = (variable: UAVariable) =>
  variable.setRolePermissions([
    { roleId: WellKnownRoles.Anonymous, permissions: makePermissionFlag('Browse | Read | ReadRolePermissions') },
    { roleId: WellKnownRoles.AuthenticatedUser, permissions: allPermissions },
  ])
