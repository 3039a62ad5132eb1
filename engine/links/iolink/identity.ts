import type { DeviceIdentification } from '#core/iolink/json'
import type { ExpectedDevice } from '#core/iolink/settings'

/** A device as a person would call it. */
export const deviceText = ({ productName, vendorName, vendorId, deviceId }: DeviceIdentification): string =>
  productName === '' ? `device ${deviceId} of vendor ${vendorId}` : `${productName}${vendorName === '' ? '' : ` of ${vendorName}`}`

export const expectedText = ({ named, vendorId, deviceId }: ExpectedDevice): string => named || `device ${deviceId} of vendor ${vendorId}`

export const isExpected = (expected: ExpectedDevice, { vendorId, deviceId }: DeviceIdentification): boolean =>
  expected.vendorId === vendorId && expected.deviceId === deviceId
