/**
 * Engineering units with the common code of UNECE Recommendation 20, which OPC UA uses to name
 * them to programs (OPC 10000-8, 5.6.4.3). Keyed by the symbol that people write.
 */
interface UnitName {
  code: string
  name: string
}

export const unitNames: Record<string, UnitName> = {
  A: { code: 'AMP', name: 'ampere' },
  V: { code: 'VLT', name: 'volt' },
  kV: { code: 'KVT', name: 'kilovolt' },
  W: { code: 'WTT', name: 'watt' },
  kW: { code: 'KWT', name: 'kilowatt' },
  MW: { code: 'MAW', name: 'megawatt' },
  var: { code: 'D44', name: 'var' },
  kvar: { code: 'KVR', name: 'kilovar' },
  VA: { code: 'D46', name: 'volt ampere' },
  kVA: { code: 'KVA', name: 'kilovolt ampere' },
  Wh: { code: 'WHR', name: 'watt hour' },
  kWh: { code: 'KWH', name: 'kilowatt hour' },
  MWh: { code: 'MWH', name: 'megawatt hour' },
  Hz: { code: 'HTZ', name: 'hertz' },
  '°C': { code: 'CEL', name: 'degree Celsius' },
  K: { code: 'KEL', name: 'kelvin' },
  '%': { code: 'P1', name: 'percent' },
  '°': { code: 'DD', name: 'degree of angle' },
  m: { code: 'MTR', name: 'metre' },
  mm: { code: 'MMT', name: 'millimetre' },
  'm/s': { code: 'MTS', name: 'metre per second' },
  'm³/h': { code: 'MQH', name: 'cubic metre per hour' },
  'l/min': { code: 'L2', name: 'litre per minute' },
  l: { code: 'LTR', name: 'litre' },
  kg: { code: 'KGM', name: 'kilogram' },
  t: { code: 'TNE', name: 'tonne' },
  N: { code: 'NEW', name: 'newton' },
  kN: { code: 'B47', name: 'kilonewton' },
  Nm: { code: 'NU', name: 'newton metre' },
  Pa: { code: 'PAL', name: 'pascal' },
  kPa: { code: 'KPA', name: 'kilopascal' },
  bar: { code: 'BAR', name: 'bar' },
  mbar: { code: 'MBR', name: 'millibar' },
  s: { code: 'SEC', name: 'second' },
  ms: { code: 'C26', name: 'millisecond' },
  min: { code: 'MIN', name: 'minute' },
  h: { code: 'HUR', name: 'hour' },
  Ω: { code: 'OHM', name: 'ohm' },
  mA: { code: '4K', name: 'milliampere' },
  mV: { code: '2Z', name: 'millivolt' },
  '1/min': { code: 'RPM', name: 'revolutions per minute' },
}
