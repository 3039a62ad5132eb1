<script setup lang="ts">
import { parametersOf, requiredOf } from '#core/http/operation'
import type { HttpSettings, Operation } from '#core/http/settings'
import { callOperation } from '#shared/api/links'
import { linkContract } from '#shared/links/link'
import type { CallOutcome } from '#shared/links/webCall'

/** An operation made once, to see what it says; its answer can be kept as the example that paths point into. */
const props = defineProps<{ operation: Operation; settings: HttpSettings; linkId: number | null }>()
const emit = defineEmits<{ keep: [example: string] }>()

const given = ref<Record<string, string>>({})
const parameters = computed(() => parametersOf(props.operation))
const busy = ref(false)
const refused = ref<Refused | null>(null)
const outcome = shallowRef<CallOutcome | null>(null)
const path = ref('')
const link = computed(() => linkContract.safeParse({ name: 'trial', kind: 'http', settings: props.settings }))
const isChanging = computed(() => props.operation.method !== 'GET')
const shortenedWords = {
  lists: 'It is long: of its lists only the first elements are shown, and kept as the example.',
  cut: 'It is long: only its beginning is shown, which is no example to point into.',
}
const send = async () => {
  if (!link.value.success) return
  busy.value = true
  refused.value = null
  const wanted = requiredOf(props.operation)
  const all = Object.fromEntries(
    parameters.value.filter((name) => given.value[name] || wanted.includes(name)).map((name) => [name, given.value[name] ?? '']),
  )
  try {
    outcome.value = await callApi(
      callOperation,
      { body: { link: link.value.data, linkId: props.linkId, operation: props.operation.name, given: all } },
      { timeoutMs: props.settings.patience.answer + 15_000 },
    )
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="trial">
    <div class="given">
      <TextField
        v-for="name in parameters"
        :key="name"
        :model-value="given[name] ?? ''"
        :label="name"
        mono
        @update:model-value="given[name] = $event"
      />
      <BusyButton :busy="busy" :disabled="!link.success" class="send" @click="send">Send it once</BusyButton>
    </div>
    <p v-if="isChanging" class="quiet">{{ operation.method }} may change something there: it is really sent.</p>
    <p v-if="!link.success" class="quiet">Once the settings of the link are right it can be tried.</p>
    <FaultNote v-if="refused" :fault="refused.why" />
    <template v-if="outcome">
      <OutcomeLines :outcome="outcome" />
      <template v-if="outcome.body">
        <p v-if="outcome.shortened !== 'no'" class="is-late">{{ shortenedWords[outcome.shortened] }}</p>
        <ExampleTree v-model="path" :text="outcome.body" label="The answer" />
        <p v-if="path" class="quiet">
          <span class="mono">{{ path }}</span> is the path of what was pressed.
        </p>
        <v-btn v-if="!outcome.fault && outcome.shortened !== 'cut'" height="28" class="keep" @click="emit('keep', outcome.body)"
          >Keep this answer as the example</v-btn
        >
      </template>
    </template>
  </div>
</template>

<style scoped>
.trial {
  display: grid;
  gap: 8px;
  padding: 10px 12px;
  background: var(--tint);
  border-radius: 6px;
}
.given {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
  gap: 10px;
  align-items: end;
}
.send,
.keep {
  justify-self: start;
}
p {
  margin: 0;
}
</style>
