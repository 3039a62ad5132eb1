import { z } from 'zod'
import { savedShape } from '#core/contracts/fields'
import { cataloguedDescription } from '#core/iolink/description/catalogued'

/** A device description of the catalogue, without its document. */
export const listedDescription = cataloguedDescription
  .omit({ document: true })
  .extend({ ...savedShape, who: z.string(), at: z.string(), size: z.int().describe('Characters of its document.') })
  .meta({ id: 'DeviceDescription' })
export type ListedDescription = z.output<typeof listedDescription>

/** What came of a file of descriptions. */
export const descriptionsLoaded = z.object({
  loaded: z.array(
    z.object({
      id: z.int(),
      name: z.string(),
      file: z.string(),
      was: z.string().describe('The version that it takes the place of; empty: none.'),
    }),
  ),
  refused: z.array(z.object({ file: z.string(), line: z.int(), problem: z.string() })),
  revision: z.int().nullable().describe('Null: nothing was changed.'),
})
export type DescriptionsLoaded = z.output<typeof descriptionsLoaded>
