<script setup lang="ts">
import { endpointContract, parametersOf, type Endpoint } from '#core/endpoints/settings'
import { tryEndpoint } from '#shared/api/outlets'
import type { EndpointOutcome } from '#shared/outlets/endpointTrial'

/** An endpoint asked once as it is drawn, before anybody else can ask it. */
const props = defineProps<{ endpoint: Endpoint }>()

const given = ref<Record<string, string>>({})
const body = ref('')
const parameters = computed(() => parametersOf(props.endpoint))
/** A message of which no part is named is handed on as it comes. */
const takesBody = computed(() => props.endpoint.method !== 'GET' && !parameters.value.some(({ in: where }) => where === 'body'))
const drawn = computed(() => endpointContract.safeParse(props.endpoint))
const busy = ref(false)
const refused = ref<Refused | null>(null)
const outcome = shallowRef<EndpointOutcome | null>(null)
const placeWords = { path: 'in the path', query: 'in the query', header: 'as a header', body: 'in the body' }

const ask = async () => {
  if (!drawn.value.success) return
  busy.value = true
  refused.value = null
  const values = Object.fromEntries(parameters.value.map(({ name }) => [name, given.value[name] ?? '']))
  try {
    outcome.value = await callApi(
      tryEndpoint,
      { body: { endpoint: drawn.value.data, given: values, body: takesBody.value ? body.value : '' } },
      { timeoutMs: 75_000 },
    )
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
const pretty = (text: string) => {
  try {
    return JSON.stringify(JSON.parse(text), null, 2)
  } catch {
    return text
  }
}
</script>

<template>
  <div class="trial" @keydown.enter.prevent="ask">
    <div class="given">
      <TextField
        v-for="one in parameters"
        :key="one.name"
        :model-value="given[one.name] ?? ''"
        :label="one.name"
        mono
        :hint="one.required ? placeWords[one.in] : `${placeWords[one.in]}, may be left out`"
        @update:model-value="given[one.name] = $event"
      />
    </div>
    <AreaField v-if="takesBody" v-model="body" label="Body" :rows="3" placeholder='{"ship": "Aurora"}' @keydown.enter.stop />
    <BusyButton :busy="busy" :disabled="!drawn.success" class="ask" @click="ask">Ask it once</BusyButton>
    <p v-if="!drawn.success" class="quiet">Once its settings are right it can be tried.</p>
    <p v-else-if="endpoint.does.kind === 'message' && !outcome" class="quiet">What bridges would get is shown; none of them gets it.</p>
    <FaultNote v-if="refused" :fault="refused.why" />
    <template v-if="outcome">
      <OutcomeLines :outcome="outcome" />
      <p v-if="outcome.shortened !== 'no'" class="is-late">It is long: only a part of it is shown.</p>
      <pre v-if="outcome.body" class="mono" tabindex="0">{{ pretty(outcome.body) }}</pre>
      <template v-if="outcome.handed">
        <p class="quiet">
          Bridges that listen to <span class="mono">{{ outcome.handed.topic }}</span> would get this; on trial none does:
        </p>
        <pre class="mono" tabindex="0">{{ pretty(outcome.handed.payload) }}</pre>
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
}
.ask {
  justify-self: start;
}
pre {
  max-height: 260px;
  margin: 0;
  overflow: auto;
  font-size: 12px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
</style>
