/** An address that people mean who write another one. */
export interface AddressVariant {
  what: keyof typeof variantText
  address: string
}

export const variantText = {
  lower: 'one lower',
  higher: 'one higher',
  'other table': 'in the other table',
} as const
