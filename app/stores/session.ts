import { changePassword, endSession, startSession, whoAmI } from '#shared/api/people'
import { mayDo, type Role } from '#core/access/roles'
import type { Who } from '#shared/people'

/** Who sits before this page, and what they may do. */
export const useSession = defineStore('session', () => {
  const who = shallowRef<Who | null>(null)
  const asked = ref(false)
  /** The session ended while a page was open; nothing on it is lost. */
  const lost = ref(false)

  const load = async () => {
    try {
      who.value = await callApi(whoAmI)
    } catch (error) {
      who.value = null
      if (asRefused(error).why.code !== 'access.sign-in') throw error
    } finally {
      asked.value = true
    }
  }

  const signIn = async (name: string, password: string) => {
    await forgetOfflineWork()
    who.value = await callApi(startSession, { body: { name, password } })
    lost.value = false
  }
  const choosePassword = async (present: string, next: string) => {
    who.value = await callApi(changePassword, { body: { present, next } })
  }
  const signOut = async () => {
    await callApi(endSession)
    await forgetOfflineWork()
    who.value = null
  }
  const noteLost = () => {
    if (who.value) lost.value = true
  }

  const can = (role: Role) => who.value !== null && mayDo(who.value.role, role)
  return { who, asked, lost, load, signIn, choosePassword, signOut, noteLost, can }
})
