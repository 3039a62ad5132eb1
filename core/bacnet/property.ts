import type { DataType } from '../tags/types'
import { objectType } from './names/objectTypes'
import { propertyNumber } from './names/properties'
import type { AppTagName } from './tagged'

/** What a property is as a tag, and on the wire. */
export interface PropertyForm {
  type: DataType
  tag: AppTagName
}

/** Properties by their number (21) that the code itself asks for. */
export const prop = {
  activeText: 4,
  covIncrement: 22,
  description: 28,
  inactiveText: 46,
  modelName: 70,
  numberOfStates: 74,
  objectIdentifier: 75,
  objectList: 76,
  objectName: 77,
  outOfService: 81,
  presentValue: 85,
  priorityArray: 87,
  reliability: 103,
  relinquishDefault: 104,
  segmentation: 107,
  stateText: 110,
  statusFlags: 111,
  systemStatus: 112,
  units: 117,
  vendorName: 121,
  maxApdu: 62,
  maxPresValue: 65,
  minPresValue: 69,
} as const

const forms: Record<string, PropertyForm> = {}
const have = (type: DataType, tag: AppTagName, names: string) => {
  for (const name of names.split(' ')) forms[name] = { type, tag }
}
have('string', 'text', 'description object-name device-type active-text inactive-text model-name vendor-name location firmware-revision application-software-version profile-name') // prettier-ignore
have('float32', 'real', 'cov-increment high-limit low-limit deadband max-pres-value min-pres-value resolution scale-factor proportional-constant integral-constant derivative-constant setpoint controlled-variable-value maximum-output minimum-output bias') // prettier-ignore
have('uint32', 'enumerated', 'units event-state reliability polarity system-status segmentation-supported object-type feedback-value notify-type') // prettier-ignore
have('uint32', 'unsigned', 'number-of-states update-interval time-delay notification-class elapsed-active-time change-of-state-count minimum-off-time minimum-on-time vendor-identifier protocol-version protocol-revision max-apdu-length-accepted apdu-timeout number-of-apdu-retries database-revision record-count total-record-count') // prettier-ignore
have('bool', 'boolean', 'out-of-service enable stop-when-full event-detection-enable log-enable')
have('bool[]', 'bits', 'status-flags event-enable acked-transitions limit-enable protocol-services-supported')
have('string[]', 'text', 'state-text')
have('string', 'object', 'object-identifier')
have('int32', 'signed', 'utc-offset')
have('string', 'time', 'local-time')
have('string', 'date', 'local-date')

const byNumber = new Map(Object.entries(forms).map(([name, form]) => [propertyNumber(name)!, form]))

/** Properties that are of the kind of the object's present value. */
const likeTheValue = new Set<number>([prop.presentValue, prop.relinquishDefault])

/** Null: only the device knows. */
export const formOf = (object: number, property: number): PropertyForm | null =>
  likeTheValue.has(property) || property === prop.priorityArray ? (objectType(object)?.value ?? null) : (byNumber.get(property) ?? null)

/** Never to be written: what tells what an object is, or what it makes of itself. */
const onlyRead = new Set<number>([
  ...[prop.objectIdentifier, prop.objectList, prop.priorityArray, prop.statusFlags, prop.numberOfStates, prop.segmentation],
  ...[prop.systemStatus, prop.vendorName, prop.modelName, prop.maxApdu],
])
export const isOnlyRead = (property: number) => onlyRead.has(property)
