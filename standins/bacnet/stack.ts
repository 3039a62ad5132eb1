import { createRequire } from 'node:module'
import type * as Stack from '@bacnet-js/client'

// a CommonJS package whose class is its default export: required, it is the same under every loader
const stack = createRequire(import.meta.url)('@bacnet-js/client') as typeof Stack

export const BacnetClient = stack.default
export type BacnetClient = InstanceType<typeof Stack.default>
export const { ApplicationTag } = stack
