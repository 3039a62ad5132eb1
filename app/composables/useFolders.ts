import { listWhole } from '#shared/api/lists'
import { listFolders } from '#shared/api/tags'

/** The folders of the site, for fields that take one; none where they cannot be had. */
export const useFolders = () => {
  const folders = ref<string[]>([])
  onMounted(async () => {
    const found = await callApi(listFolders, { query: { limit: listWhole } }).catch(() => null)
    folders.value = found?.items ?? []
  })
  return folders
}
