import { changeConfiguration } from '#db/configuration'
import { linkContract } from '#shared/links/link'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { shownLink } from '../../links/links'
import { bodyOf, defineRoute } from '../../answers/refusal'
import { sealed } from '../../store/secrets'

/** Makes a link. */
export default defineRoute('configure', async (event) => {
  const link = await bodyOf(event, linkContract)
  const change = changeConfiguration(database(), whoIs(event), `Made link “${link.name}”`, (editor) =>
    editor.insert('link', [{ ...link, settings: sealed(link.settings) }]),
  )
  const { result } = await namesTaken('link', link.name, 'name', change)
  return shownLink(result[0]!)
})
