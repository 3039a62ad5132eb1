import { deviceType, objectTypeName, objectTypeNamed, objectType } from './names/objectTypes'
import { propertyName, propertyNumber } from './names/properties'
import { anyInstance, mostInstance, type ObjectId } from './objectId'
import { prop } from './property'
import type { PropertyRef } from './services'

/**
 * Addresses: `4001:analog-value/3` is the present value of an object of device 4001; `.priority-array[8]` behind it
 * another property, and an element of it. Types also by their short form, types and properties of makers by number.
 */
export interface BacnetAddress extends PropertyRef {
  device: number
}

export type ParsedAddress = { ok: true; address: BacnetAddress } | { ok: false; problem: string }

const form = /^(\d+)\s*[:/ ]\s*([a-z][a-z-]*?|\d+)\s*[/, ]?\s*(\d+)(?:\.([a-z-]+|\d+))?(?:\[(\d+)\])?$/i

const mostMakerNumber = 1023
const mostProperty = 4_194_303

export const parseAddress = (text: string): ParsedAddress => {
  const found = form.exec(text.trim())
  if (!found) return no('An address is device:type/instance, as in 4001:analog-value/3 or 4001:AV3; a property follows behind a dot.')
  const [, deviceText, typeText, instanceText, propertyText, indexText] = found
  const device = Number(deviceText)
  if (device > mostInstance) return no(`A device has a number from 0 to ${mostInstance.toLocaleString('en-GB')}.`)
  const type = typeNumber(typeText!)
  if (type === null) return no(`There is no kind of object “${typeText}”: it is one such as analog-input, or AI, or a number.`)
  const instance = Number(instanceText)
  if (instance > (type === deviceType ? anyInstance : mostInstance))
    return no(`An object has a number from 0 to ${mostInstance.toLocaleString('en-GB')}.`)
  const property = propertyText === undefined ? usualProperty(type) : propertyOf(propertyText)
  if (property === null)
    return no(
      propertyText === undefined
        ? `An object of kind ${objectTypeName(type)} has no present value: name a property, as in .object-name.`
        : `There is no property “${propertyText}”: it is one such as present-value or units, or a number.`,
    )
  const index = indexText === undefined ? null : Number(indexText)
  if (index !== null && index > 0xffff) return no('An element of an array has a number from 0 to 65,535.')
  return { ok: true, address: { device, object: { type, instance }, property, index } }
}

const no = (problem: string): ParsedAddress => ({ ok: false, problem })

const typeNumber = (text: string): number | null => {
  if (/^\d/.test(text)) return Number(text) <= mostMakerNumber ? Number(text) : null
  return objectTypeNamed(text)?.number ?? null
}

const propertyOf = (text: string): number | null => {
  if (/^\d/.test(text)) return Number(text) <= mostProperty ? Number(text) : null
  return propertyNumber(text.toLowerCase())
}

/** A kind that the standard does not name may have a present value. */
const usualProperty = (type: number): number | null => {
  const known = objectType(type)
  return known && !known.value ? null : prop.presentValue
}

export const objectText = ({ type, instance }: ObjectId): string => `${objectTypeName(type)}/${instance}`

/** What follows the object: nothing for its present value. */
const propertyText = ({ property, index }: Pick<PropertyRef, 'property' | 'index'>) =>
  (property === prop.presentValue ? '' : `.${propertyName(property)}`) + (index === null ? '' : `[${index}]`)

export const refText = ({ object, property, index }: PropertyRef): string => objectText(object) + propertyText({ property, index })

export const formatAddress = (address: BacnetAddress): string => `${address.device}:${refText(address)}`

/** `AV3`, or as {@link refText} has it where there is no short form. */
export const shortText = (address: BacnetAddress): string => {
  const short = objectType(address.object.type)?.short
  return short ? `${short}${address.object.instance}${propertyText(address)}` : refText(address)
}
