import { deviceElement } from './deviceElement'

/** A value of a simulated sensor, as its description lays it out. */
export interface DescribedValue {
  name: string
  about?: string
  bitOffset: number
  bits: number
  type: 'BooleanT' | 'UIntegerT' | 'IntegerT' | 'Float32T'
  gradient?: number
  unitCode?: number
  digits?: number
  range?: [low: number, high: number]
  names?: string[]
}

export interface DescribedParameter {
  index: number
  name: string
  access: 'ro' | 'rw'
  bits: number
  /** Absent: it is one value of its own. */
  parts?: DescribedValue[]
  value?: Omit<DescribedValue, 'name' | 'bitOffset'>
}

export interface DescribedDevice {
  deviceId: number
  name: string
  product: string
  about: string
  family: string
  input: { bits: number; values: DescribedValue[] }
  output?: { bits: number; values: DescribedValue[] }
  parameters: DescribedParameter[]
  events: { code: number; type: 'Notification' | 'Warning' | 'Error'; name: string }[]
}

const escaped = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;')

/** Writes the description of a simulated sensor as its maker would give it out (IO Device Description, version 1.1). */
export const descriptionOf = (device: DescribedDevice): string => {
  const texts: string[] = []
  const textId = (text: string) => {
    texts.push(text)
    return `T_${texts.length}`
  }
  const named = (tag: string, text: string) => `<${tag} textId="${textId(text)}"/>`
  const inside = ({ names = [], range }: Pick<DescribedValue, 'names' | 'range'>) =>
    names.map((name, value) => `<SingleValue value="${value}">${named('Name', name)}</SingleValue>`).join('') +
    (range ? `<ValueRange lowerValue="${range[0]}" upperValue="${range[1]}"/>` : '')
  const typeOf = (tag: string, value: Pick<DescribedValue, 'type' | 'bits' | 'names' | 'range'>) =>
    `<${tag} xsi:type="${value.type}"${/IntegerT/.test(value.type) ? ` bitLength="${value.bits}"` : ''}>${inside(value)}</${tag}>`
  const item = (value: DescribedValue, i: number) =>
    `<RecordItem subindex="${i + 1}" bitOffset="${value.bitOffset}">${typeOf('SimpleDatatype', value)}${named('Name', value.name)}${value.about ? named('Description', value.about) : ''}</RecordItem>`
  const record = (bits: number, values: DescribedValue[]) =>
    `<Datatype xsi:type="RecordT" bitLength="${bits}">${values.map(item).join('')}</Datatype>`
  const side = (tag: string, id: string, data: DescribedDevice['output']) =>
    data ? `<${tag} id="${id}" bitLength="${data.bits}">${record(data.bits, data.values)}${named('Name', 'Process data')}</${tag}>` : ''
  const shown = ({ gradient, unitCode, digits }: Pick<DescribedValue, 'gradient' | 'unitCode' | 'digits'>) =>
    `${gradient === undefined ? '' : ` gradient="${gradient}"`}${unitCode === undefined ? '' : ` unitCode="${unitCode}"`}${digits === undefined ? '' : ` displayFormat="Dec.${digits}"`}`
  const infos = (id: string, data: DescribedDevice['output']) =>
    data
      ? `<ProcessDataRef processDataId="${id}">${data.values.map((value, i) => `<ProcessDataRecordItemInfo subindex="${i + 1}"${shown(value)}/>`).join('')}</ProcessDataRef>`
      : ''
  const parameter = ({ index, name, access, bits, parts, value }: DescribedParameter) =>
    `<Variable id="V_${index}" index="${index}" accessRights="${access}">${parts ? record(bits, parts) : typeOf('Datatype', { ...value!, bits })}${named('Name', name)}</Variable>`
  const menus = device.parameters.flatMap(({ index, value, parts }) =>
    value
      ? [`<VariableRef variableId="V_${index}"${shown(value)}/>`]
      : (parts ?? []).map((part, i) => `<RecordItemRef variableId="V_${index}" subindex="${i + 1}"${shown(part)}/>`),
  )
  const identity = `<DeviceIdentity vendorId="2641" vendorName="Harrow Sensor Works" deviceId="${device.deviceId}">${named('VendorText', 'Sensors for harbours')}${named('VendorUrl', 'https://sensors.example')}${named(deviceElement, device.name)}${named('DeviceFamily', device.family)}<DeviceVariantCollection><DeviceVariant productId="${device.product}">${named('Name', device.product)}${named('Description', device.about)}</DeviceVariant></DeviceVariantCollection></DeviceIdentity>`
  const functions = `<DeviceFunction><VariableCollection><StdVariableRef id="V_VendorName"/><StdVariableRef id="V_ProductName"/><StdVariableRef id="V_SerialNumber"/><StdVariableRef id="V_ApplicationSpecificTag"/><StdVariableRef id="V_DeviceStatus"/>${device.parameters.map(parameter).join('')}</VariableCollection><ProcessDataCollection><ProcessData id="P_Data">${side('ProcessDataIn', 'PDI', device.input)}${side('ProcessDataOut', 'PDO', device.output)}</ProcessData></ProcessDataCollection><EventCollection>${device.events.map(({ code, type, name }) => `<Event code="${code}" type="${type}">${named('Name', name)}</Event>`).join('')}</EventCollection><UserInterface><ProcessDataRefCollection>${infos('PDI', device.input)}${infos('PDO', device.output)}</ProcessDataRefCollection><MenuCollection><Menu id="M_Set">${menus.join('')}</Menu></MenuCollection></UserInterface></DeviceFunction>`
  const collection = texts.map((text, i) => `<Text id="T_${i + 1}" value="${escaped(text)}"/>`).join('\n')
  return `<?xml version="1.0" encoding="UTF-8"?>
<IODevice xmlns="http://www.io-link.com/IODD/2010/10" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">
<DocumentInfo version="V1.0" releaseDate="2026-05-11" copyright="Harrow Sensor Works"/>
<ProfileBody>${identity}
${functions}</ProfileBody>
<ExternalTextCollection><PrimaryLanguage xml:lang="en">
${collection}
</PrimaryLanguage></ExternalTextCollection>
</IODevice>
`
}
