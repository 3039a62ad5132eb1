import { removeTags } from '#shared/api/tags'
import type { Tag } from '#shared/tags'

/** Removes a tag that stands beside a list, and offers to take it back. @param done it is gone. */
export const useTagRemoval = (done: () => void) => {
  const notices = useNotices()
  return async (tag: Tag) => {
    try {
      const { revision } = await callApi(removeTags, { body: { ids: [tag.id] } })
      done()
      notices.tell(`Tag ${tag.path} removed.`, revision)
    } catch (error) {
      notices.tellProblem(asRefused(error).why.what)
    }
  }
}
