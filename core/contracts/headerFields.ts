import { z } from 'zod'

/** A name in a header of HTTP (RFC 9110, 5.6.2 token). */
export const headerName = z
  .string()
  .trim()
  .regex(/^[!#$%&'*+.^_`|~0-9A-Za-z-]{1,100}$/, 'The name of a header has letters, digits and hyphens.')

/** What a header says: nothing that would begin another one. */
export const headerValue = z
  .string()
  .max(4000, 'A header has at most 4,000 characters.')
  .refine((text) => !/[\r\n\0]/.test(text), 'A header holds no line break.')
