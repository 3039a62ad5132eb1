<script setup lang="ts">
import { passwordChange } from '#shared/people'

/** Name and password; and a password of one's own, where the present one was given for once. */
const props = defineProps<{ name?: string }>()
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const name = ref(props.name ?? '')
const password = ref('')
const next = ref('')
const busy = ref(false)
const problem = shallowRef<Refused | null>(null)
const mustChange = computed(() => session.who?.mustChange ?? false)
const nextProblem = computed(() => {
  if (next.value === '') return ''
  const parsed = passwordChange.safeParse({ present: password.value, next: next.value })
  return parsed.success ? '' : (parsed.error.issues.find(({ path }) => path[0] === 'next')?.message ?? '')
})

const attempt = async (work: () => Promise<void>) => {
  busy.value = true
  problem.value = null
  try {
    await work()
    if (!session.who?.mustChange) emit('done')
  } catch (error) {
    problem.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
const send = () =>
  attempt(() => (mustChange.value ? session.choosePassword(password.value, next.value) : session.signIn(name.value, password.value)))
const ids = { name: useId(), password: useId(), next: useId() }
</script>

<template>
  <form class="form" @submit.prevent="send">
    <template v-if="!mustChange">
      <div>
        <label class="label" :for="ids.name">Name</label>
        <v-text-field :id="ids.name" v-model="name" autocomplete="username" :autofocus="!name" :readonly="!!props.name" />
      </div>
    </template>
    <p v-else>This password was given to be used once. Choose one of your own, of ten characters or more.</p>
    <div>
      <label class="label" :for="ids.password">{{ mustChange ? 'The password you were given' : 'Password' }}</label>
      <v-text-field :id="ids.password" v-model="password" type="password" autocomplete="current-password" :autofocus="!!name" />
    </div>
    <div v-if="mustChange">
      <label class="label" :for="ids.next">Your own password</label>
      <v-text-field :id="ids.next" v-model="next" type="password" autocomplete="new-password" :error-messages="nextProblem" />
    </div>
    <BusyButton type="submit" variant="flat" :busy="busy" :disabled="!password || (mustChange ? !next || !!nextProblem : !name.trim())">{{
      mustChange ? 'Use this password' : 'Sign in'
    }}</BusyButton>
    <FaultNote v-if="problem" :fault="problem.why" />
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
.form p {
  margin: 0;
}
</style>
