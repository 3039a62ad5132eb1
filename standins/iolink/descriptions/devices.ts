import { descriptionOf, type DescribedDevice } from './document'
import { tension } from './tension'

const state = ['measures', 'warms up', 'fails']

const angleDevice: DescribedDevice = {
  ...{ deviceId: 1062, name: 'Arm angle sensor', product: 'HA-360', about: 'Absolute, one turn', family: 'Angle' },
  input: {
    bits: 24,
    values: [
      { name: 'Angle', about: 'Of the boom above level', bitOffset: 8, bits: 16, type: 'IntegerT', gradient: 0.1, unitCode: 1005, digits: 1, range: [-1800, 1800] }, // prettier-ignore
      { name: 'State', bitOffset: 4, bits: 3, type: 'UIntegerT', names: state },
      { name: 'Zeroed', bitOffset: 0, bits: 1, type: 'BooleanT' },
    ],
  },
  parameters: [{ index: 90, name: 'Zero offset', access: 'rw', bits: 16, value: { bits: 16, type: 'IntegerT', gradient: 0.1, unitCode: 1005, digits: 1 } }], // prettier-ignore
  events: [{ code: 36_101, type: 'Error', name: 'Magnet lost' }],
}

const surfaceDevice: DescribedDevice = {
  ...{ deviceId: 1074, name: 'Surface temperature sensor', product: 'HS-20', about: 'Infrared, -20 to 400 °C', family: 'Temperature' },
  input: {
    bits: 32,
    values: [
      { name: 'Temperature', about: 'Of the surface that it looks at', bitOffset: 16, bits: 16, type: 'IntegerT', gradient: 0.1, unitCode: 1001, digits: 1, range: [-200, 4000] }, // prettier-ignore
      { name: 'Own temperature', bitOffset: 8, bits: 8, type: 'IntegerT', unitCode: 1001 },
      { name: 'State', bitOffset: 4, bits: 3, type: 'UIntegerT', names: state },
      { name: 'Hot', about: 'Above its limit', bitOffset: 0, bits: 1, type: 'BooleanT' },
    ],
  },
  parameters: [
    {
      ...{ index: 100, name: 'Limits', access: 'rw', bits: 32 },
      parts: [
        { name: 'Hot from', bitOffset: 16, bits: 16, type: 'IntegerT', gradient: 0.1, unitCode: 1001, digits: 1 },
        { name: 'Hot until', bitOffset: 0, bits: 16, type: 'IntegerT', gradient: 0.1, unitCode: 1001, digits: 1 },
      ],
    },
    { index: 101, name: 'Emissivity', access: 'rw', bits: 32, value: { bits: 32, type: 'Float32T' } },
  ],
  events: [{ code: 36_201, type: 'Warning', name: 'Lens dirty' }],
}

const lampDevice: DescribedDevice = {
  ...{ deviceId: 1088, name: 'Signal lamp', product: 'HL-3', about: 'Three colours and a horn', family: 'Signal' },
  input: { bits: 8, values: [{ name: 'Supply', bitOffset: 0, bits: 8, type: 'UIntegerT', gradient: 0.1, unitCode: 1240, digits: 1 }] },
  output: {
    bits: 8,
    values: [
      { name: 'Colour', bitOffset: 0, bits: 3, type: 'UIntegerT', names: ['off', 'green', 'amber', 'red'] },
      { name: 'Blink', bitOffset: 4, bits: 1, type: 'BooleanT' },
      { name: 'Horn', bitOffset: 7, bits: 1, type: 'BooleanT' },
    ],
  },
  parameters: [{ index: 110, name: 'Brightness', access: 'rw', bits: 8, value: { bits: 8, type: 'UIntegerT', unitCode: 1342, range: [5, 100] } }], // prettier-ignore
  events: [],
}

/** The descriptions of all simulated sensors, by the names of their files. */
export const descriptionFiles = {
  'Harrow-HT40-20260302-IODD1.1.xml': tension,
  'Harrow-HA360-20260511-IODD1.1.xml': descriptionOf(angleDevice),
  'Harrow-HS20-20260511-IODD1.1.xml': descriptionOf(surfaceDevice),
  'Harrow-HL3-20260511-IODD1.1.xml': descriptionOf(lampDevice),
} as const

export const angle = descriptionFiles['Harrow-HA360-20260511-IODD1.1.xml']
export const surface = descriptionFiles['Harrow-HS20-20260511-IODD1.1.xml']
export const lamp = descriptionFiles['Harrow-HL3-20260511-IODD1.1.xml']
