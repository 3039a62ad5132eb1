<script setup lang="ts">
import { roleText } from '#core/access/roles'

/** Who is signed in, and the way out. */
const session = useSession()
const changing = ref(false)
const notices = useNotices()
const form = reactive({ present: '', next: '' })
const problem = shallowRef<Refused | null>(null)

const leave = async () => {
  await session.signOut().catch(() => {})
  await navigateTo('/sign-in')
}
const change = async () => {
  problem.value = null
  try {
    await session.choosePassword(form.present, form.next)
    Object.assign(form, { present: '', next: '' })
    changing.value = false
    notices.tell('Your password is another one now; other sessions of yours have ended.')
  } catch (error) {
    problem.value = asRefused(error)
  }
}
const message = (path: string) => problem.value?.fields.find((field) => field.path === path)?.message ?? ''
</script>

<template>
  <v-menu v-if="session.who" location="bottom end">
    <template #activator="{ props: activator }">
      <button type="button" class="who" v-bind="activator">{{ session.who.name }}</button>
    </template>
    <div class="sheet menu">
      <p>
        <strong>{{ session.who.name }}</strong><br /><span class="quiet">{{ session.who.role }}: {{ roleText[session.who.role] }}</span>
      </p>
      <v-btn @click="changing = true">Change password…</v-btn>
      <v-btn @click="leave">Sign out</v-btn>
    </div>
  </v-menu>
  <v-dialog v-model="changing" max-width="400" aria-label="Change your password">
    <form class="sheet change" @submit.prevent="change">
      <h2 class="sheet-title">Change your password</h2>
      <div>
        <label class="label" for="present-password">Present password</label>
        <v-text-field
          id="present-password"
          v-model="form.present"
          type="password"
          autocomplete="current-password"
          :error-messages="message('present')"
        />
      </div>
      <div>
        <label class="label" for="next-password">New password</label>
        <v-text-field
          id="next-password"
          v-model="form.next"
          type="password"
          autocomplete="new-password"
          :error-messages="message('next')"
        />
      </div>
      <div class="buttons">
        <v-btn type="submit" variant="flat" :disabled="!form.present || !form.next">Change it</v-btn>
        <v-btn @click="changing = false">Keep</v-btn>
      </div>
      <FaultNote v-if="problem && problem.fields.length === 0" :fault="problem.why" />
    </form>
  </v-dialog>
</template>

<style scoped>
.who {
  color: inherit;
  padding: 4px 8px;
  border-radius: 6px;
}
.who:focus-visible,
.who:hover {
  background: rgba(255, 255, 255, 0.14);
}
.menu {
  display: grid;
  gap: 8px;
  padding: 12px 14px;
  max-width: 260px;
}
.menu p {
  margin: 0 0 4px;
}
.change {
  display: grid;
  gap: 12px;
  padding: 18px 20px;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
