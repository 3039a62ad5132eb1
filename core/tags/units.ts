/**
 * Engineering units with the common code of UNECE Recommendation 20, which OPC UA uses to name
 * them to programs (OPC 10000-8, 5.6.4.3). Keyed by the symbol that people write.
 */
interface Unit {
  code: string
  name: string
  /** What it measures, and `value in its base = value × factor + offset`; absent: it stands for itself. */
  measures?: [quantity: string, factor: number, offset?: number]
}

const of = (quantity: string, factor = 1, offset = 0): Unit['measures'] => [quantity, factor, offset]

export const unitNames: Record<string, Unit> = {
  A: { code: 'AMP', name: 'ampere', measures: of('current') },
  mA: { code: '4K', name: 'milliampere', measures: of('current', 1e-3) },
  V: { code: 'VLT', name: 'volt', measures: of('voltage') },
  mV: { code: '2Z', name: 'millivolt', measures: of('voltage', 1e-3) },
  kV: { code: 'KVT', name: 'kilovolt', measures: of('voltage', 1e3) },
  W: { code: 'WTT', name: 'watt', measures: of('power') },
  kW: { code: 'KWT', name: 'kilowatt', measures: of('power', 1e3) },
  MW: { code: 'MAW', name: 'megawatt', measures: of('power', 1e6) },
  hp: { code: 'HJ', name: 'metric horsepower', measures: of('power', 735.49875) },
  var: { code: 'D44', name: 'var', measures: of('reactive power') },
  kvar: { code: 'KVR', name: 'kilovar', measures: of('reactive power', 1e3) },
  VA: { code: 'D46', name: 'volt ampere', measures: of('apparent power') },
  kVA: { code: 'KVA', name: 'kilovolt ampere', measures: of('apparent power', 1e3) },
  Wh: { code: 'WHR', name: 'watt hour', measures: of('energy', 3600) },
  kWh: { code: 'KWH', name: 'kilowatt hour', measures: of('energy', 3.6e6) },
  MWh: { code: 'MWH', name: 'megawatt hour', measures: of('energy', 3.6e9) },
  kJ: { code: 'KJO', name: 'kilojoule', measures: of('energy', 1e3) },
  MJ: { code: '3B', name: 'megajoule', measures: of('energy', 1e6) },
  Hz: { code: 'HTZ', name: 'hertz', measures: of('frequency') },
  '1/min': { code: 'RPM', name: 'revolutions per minute', measures: of('frequency', 1 / 60) },
  '°C': { code: 'CEL', name: 'degree Celsius', measures: of('temperature', 1, 273.15) },
  '°F': { code: 'FAH', name: 'degree Fahrenheit', measures: of('temperature', 5 / 9, 273.15 - 160 / 9) },
  K: { code: 'KEL', name: 'kelvin', measures: of('temperature') },
  '%': { code: 'P1', name: 'percent', measures: of('share', 1e-2) },
  '‰': { code: 'NX', name: 'per mille', measures: of('share', 1e-3) },
  ppm: { code: '59', name: 'part per million', measures: of('share', 1e-6) },
  '°': { code: 'DD', name: 'degree of angle', measures: of('angle', Math.PI / 180) },
  rad: { code: 'C81', name: 'radian', measures: of('angle') },
  m: { code: 'MTR', name: 'metre', measures: of('length') },
  cm: { code: 'CMT', name: 'centimetre', measures: of('length', 1e-2) },
  mm: { code: 'MMT', name: 'millimetre', measures: of('length', 1e-3) },
  km: { code: 'KMT', name: 'kilometre', measures: of('length', 1e3) },
  in: { code: 'INH', name: 'inch', measures: of('length', 0.0254) },
  ft: { code: 'FOT', name: 'foot', measures: of('length', 0.3048) },
  'm/s': { code: 'MTS', name: 'metre per second', measures: of('speed') },
  'km/h': { code: 'KMH', name: 'kilometre per hour', measures: of('speed', 1 / 3.6) },
  kn: { code: 'KNT', name: 'knot', measures: of('speed', 1852 / 3600) },
  'm³': { code: 'MTQ', name: 'cubic metre', measures: of('volume') },
  l: { code: 'LTR', name: 'litre', measures: of('volume', 1e-3) },
  'm³/h': { code: 'MQH', name: 'cubic metre per hour', measures: of('volume flow', 1 / 3600) },
  'm³/s': { code: 'MQS', name: 'cubic metre per second', measures: of('volume flow') },
  'l/min': { code: 'L2', name: 'litre per minute', measures: of('volume flow', 1e-3 / 60) },
  'l/s': { code: 'G51', name: 'litre per second', measures: of('volume flow', 1e-3) },
  kg: { code: 'KGM', name: 'kilogram', measures: of('mass') },
  g: { code: 'GRM', name: 'gram', measures: of('mass', 1e-3) },
  t: { code: 'TNE', name: 'tonne', measures: of('mass', 1e3) },
  lb: { code: 'LBR', name: 'pound', measures: of('mass', 0.45359237) },
  'kg/h': { code: 'E93', name: 'kilogram per hour', measures: of('mass flow', 1 / 3600) },
  'kg/s': { code: 'KGS', name: 'kilogram per second', measures: of('mass flow') },
  't/h': { code: 'E18', name: 'tonne per hour', measures: of('mass flow', 1e3 / 3600) },
  N: { code: 'NEW', name: 'newton', measures: of('force') },
  kN: { code: 'B47', name: 'kilonewton', measures: of('force', 1e3) },
  Nm: { code: 'NU', name: 'newton metre' },
  Pa: { code: 'PAL', name: 'pascal', measures: of('pressure') },
  kPa: { code: 'KPA', name: 'kilopascal', measures: of('pressure', 1e3) },
  MPa: { code: 'MPA', name: 'megapascal', measures: of('pressure', 1e6) },
  bar: { code: 'BAR', name: 'bar', measures: of('pressure', 1e5) },
  mbar: { code: 'MBR', name: 'millibar', measures: of('pressure', 100) },
  psi: { code: 'PS', name: 'pound-force per square inch', measures: of('pressure', 6894.757293168361) },
  s: { code: 'SEC', name: 'second', measures: of('time') },
  ms: { code: 'C26', name: 'millisecond', measures: of('time', 1e-3) },
  min: { code: 'MIN', name: 'minute', measures: of('time', 60) },
  h: { code: 'HUR', name: 'hour', measures: of('time', 3600) },
  Ω: { code: 'OHM', name: 'ohm', measures: of('resistance') },
  kΩ: { code: 'B49', name: 'kiloohm', measures: of('resistance', 1e3) },
}

const measuresOf = (symbol: string) => (Object.hasOwn(unitNames, symbol) ? unitNames[symbol]!.measures : undefined)

/** `value in the other unit = value × factor + offset`; null where they are not known to measure the same. */
export const conversion = (from: string, to: string): { factor: number; offset: number } | null => {
  const [own, other] = [measuresOf(from), measuresOf(to)]
  if (!own || !other || own[0] !== other[0]) return null
  const [, factor, offset = 0] = own
  const [, toFactor, toOffset = 0] = other
  return { factor: factor / toFactor, offset: (offset - toOffset) / toFactor }
}

/** Units that a value in this one can be had in, without itself. */
export const relatives = (symbol: string): string[] => {
  const quantity = measuresOf(symbol)?.[0]
  if (quantity === undefined) return []
  return Object.keys(unitNames).filter((other) => other !== symbol && measuresOf(other)?.[0] === quantity)
}
