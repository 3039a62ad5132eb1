<script setup lang="ts">
import { baseProblem } from '#core/http/base'
import type { HttpSettings, Operation } from '#core/http/settings'
import { counted } from '#core/text/counted'
import { readApiDescription } from '#shared/api/links'
import { linkContract } from '#shared/links/link'
import type { ApiDescription } from '#shared/links/webCall'

/** Operations out of the description that a web API gives of itself: found at an address, or brought along as a file or text. */
const props = defineProps<{ settings: HttpSettings; linkId: number | null }>()
const emit = defineEmits<{ take: [operations: Operation[], description: ApiDescription]; close: [] }>()

const address = ref('')
const text = ref('')
const [isPasting, busy] = [ref(false), ref(false)]
const refused = ref<Refused | null>(null)
const description = shallowRef<ApiDescription | null>(null)
const chosen = ref<ReadonlySet<string>>(new Set())
const filter = ref('')

const isThere = computed(() => (isPasting.value ? text.value.trim() !== '' : URL.canParse(address.value.trim())))
/** Where nothing is entered yet, the host of the description is as good as any to ask it. */
const draft = () => {
  const known = baseProblem(props.settings.base) === null
  const base = known ? props.settings.base : URL.canParse(address.value) ? new URL(address.value).origin : 'http://localhost'
  return linkContract.safeParse({ name: 'trial', kind: 'http', settings: { ...props.settings, base, operations: [] } })
}
const read = async () => {
  const link = draft()
  if (!link.success || !isThere.value) return
  ;[busy.value, refused.value, description.value] = [true, null, null]
  try {
    const body = { link: link.data, linkId: props.linkId, address: address.value.trim(), text: isPasting.value ? text.value : '' }
    const found = await callApi(readApiDescription, { body }, { timeoutMs: props.settings.patience.answer + 30_000 })
    description.value = found
    chosen.value = new Set(found.operations.length <= 12 ? found.operations.map(({ operation }) => operation.name) : [])
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
const bring = async (file: File | undefined) => {
  if (!file) return
  text.value = await file.text()
  isPasting.value = true
  await read()
}
const known = computed(() => new Set(props.settings.operations.map(({ name }) => name)))
const shown = computed(() => {
  const wanted = filter.value.trim().toLowerCase()
  return (description.value?.operations ?? []).filter(({ operation: { name, path, method }, about }) =>
    `${name} ${method} ${path} ${about}`.toLowerCase().includes(wanted),
  )
})
const choose = (name: string, on: boolean) => {
  const next = new Set(chosen.value)
  if (on) next.add(name)
  else next.delete(name)
  chosen.value = next
}
const isAll = computed(() => shown.value.length > 0 && shown.value.every(({ operation }) => chosen.value.has(operation.name)))
const chooseAll = (on: boolean) => shown.value.forEach(({ operation }) => choose(operation.name, on))
const take = () => {
  const found = description.value
  if (!found) return
  emit(
    'take',
    found.operations.filter(({ operation }) => chosen.value.has(operation.name)).map(({ operation }) => operation),
    found,
  )
}
</script>

<template>
  <section class="sheet panel" aria-label="Description of the web API">
    <div class="asked">
      <TextField
        v-if="!isPasting"
        v-model="address"
        label="Address of its description"
        mono
        placeholder="https://tariffs.port.example/openapi.json"
        class="fill"
        @keydown.enter.prevent="read"
      />
      <AreaField v-else v-model="text" class="fill" label="Its description, in OpenAPI 3.0 or 3.1 (JSON or YAML)" :rows="5" />
      <BusyButton :busy="busy" :disabled="!isThere" class="read" @click="read">Read it</BusyButton>
    </div>
    <div class="ways">
      <label class="file">
        <input type="file" accept=".json,.yaml,.yml,application/json" @change="bring(($event.target as HTMLInputElement).files?.[0])" />
        <span>Bring a file</span>
      </label>
      <v-btn height="26" @click="isPasting = !isPasting">{{ isPasting ? 'Give an address instead' : 'Paste its text instead' }}</v-btn>
      <v-btn height="26" @click="emit('close')">Close</v-btn>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <template v-if="description">
      <p>
        <strong>{{ description.title || 'A web API' }}</strong>
        <span v-if="description.base" class="quiet">
          at <span class="mono">{{ description.base }}</span></span
        >
      </p>
      <div v-if="description.operations.length > 12" class="asked">
        <TextField v-model="filter" label="Find among its operations" class="fill" />
      </div>
      <div class="scroll">
        <table class="rows" aria-label="Operations of the description">
          <thead>
            <tr>
              <th>
                <v-checkbox
                  :model-value="isAll"
                  density="compact"
                  hide-details
                  aria-label="All of these"
                  @update:model-value="chooseAll(!!$event)"
                />
              </th>
              <th>Operation</th>
              <th>Asks</th>
              <th>What it is about</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="{ operation, about, note } in shown" :key="operation.name">
              <td>
                <v-checkbox
                  density="compact"
                  hide-details
                  :model-value="chosen.has(operation.name)"
                  :aria-label="operation.name"
                  @update:model-value="choose(operation.name, !!$event)"
                />
              </td>
              <td class="mono">
                {{ operation.name }} <span v-if="known.has(operation.name)" class="is-late">in place of the one that is there</span>
              </td>
              <td class="mono">{{ operation.method }} {{ operation.path || '/' }}</td>
              <td>
                {{ about }} <span v-if="note" class="is-late">{{ note }}</span>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="shown.length === 0" class="quiet">{{ filter ? 'None of them goes by that.' : 'It describes no operation.' }}</p>
      </div>
      <details v-if="description.left.length">
        <summary>{{ counted(description.left.length, 'operation') }} cannot be taken</summary>
        <p v-for="{ what, why } in description.left" :key="what">
          <span class="mono">{{ what }}</span>: {{ why }}
        </p>
      </details>
      <v-btn variant="flat" color="primary" class="take" :disabled="chosen.size === 0" @click="take">
        Take {{ counted(chosen.size, 'operation') }}
      </v-btn>
    </template>
  </section>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 10px;
  padding: 12px 16px;
  margin-bottom: 14px;
}
.asked {
  display: flex;
  gap: 10px;
  align-items: flex-end;
}
.fill {
  flex: 1;
}
.ways {
  display: flex;
  gap: 8px;
}
.file {
  display: inline-flex;
  align-items: center;
  height: 26px;
  padding: 0 10px;
  border: 1px solid var(--line);
  border-radius: 5px;
  cursor: pointer;
}
.file:focus-within {
  outline: 2px solid var(--copper);
}
.file input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.scroll {
  max-height: 320px;
  overflow: auto;
}
.take {
  justify-self: start;
}
p {
  margin: 0;
}
</style>
