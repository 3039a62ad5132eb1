import type { Parameter, SimpleType } from './description'

/** Parameters that all devices have in the same places (IO-Link Interface and System Specification, B.2), by the ids of descriptions. */
const text = (bytes: number): SimpleType => ({ kind: 'text', bits: 8 * bytes, names: [], range: null })
const whole = (bits: number): SimpleType => ({ kind: 'uint', bits, names: [], range: null })

const one = (id: string, index: number, name: string, type: SimpleType, access: Parameter['access'] = 'ro'): [string, Parameter] => [
  id,
  {
    ...{ id, index, name, about: '', access, subindexAccess: true },
    record: {
      ...{ name, bits: type.bits },
      items: [{ name, about: '', subindex: 0, bitOffset: 0, type, scale: { gradient: 1, offset: 0, unit: '', digits: null } }],
    },
  },
]

export const standardParameters: ReadonlyMap<string, Parameter> = new Map([
  one('V_SystemCommand', 2, 'System command', whole(8), 'wo'),
  one('V_DeviceAccessLocks', 12, 'Access locks', whole(16), 'rw'),
  one('V_VendorName', 16, 'Vendor name', text(64)),
  one('V_VendorText', 17, 'Vendor text', text(64)),
  one('V_ProductName', 18, 'Product name', text(64)),
  one('V_ProductID', 19, 'Product id', text(64)),
  one('V_ProductText', 20, 'Product text', text(64)),
  one('V_SerialNumber', 21, 'Serial number', text(16)),
  one('V_HardwareRevision', 22, 'Hardware revision', text(64)),
  one('V_FirmwareRevision', 23, 'Firmware revision', text(64)),
  one('V_ApplicationSpecificTag', 24, 'Application tag', text(32), 'rw'),
  one('V_FunctionTag', 25, 'Function tag', text(32), 'rw'),
  one('V_LocationTag', 26, 'Location tag', text(32), 'rw'),
  one('V_ErrorCount', 32, 'Error count', whole(16)),
  one('V_DeviceStatus', 36, 'Device status', {
    ...whole(8),
    names: ['works', 'maintenance is due', 'outside of its specification', 'functional check', 'failure'].map((name, value) => ({
      value,
      name,
    })),
  }),
])
