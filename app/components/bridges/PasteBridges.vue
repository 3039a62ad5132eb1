<script setup lang="ts">
import { freeName, readCopied, type Pasted } from '#core/bridges/copied'
import { bridgeProblems } from '#core/bridges/problems'
import { counted } from '#core/text/counted'
import { makeBridge } from '#shared/api/bridges'

/** Bridges out of copied text: one opens as a sheet, of several those that fit are made. */
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ one: [pasted: Pasted] }>()
const lists = useLists()
const notices = useNotices()
const text = ref('')
const busy = ref(false)
const failed = ref<string[]>([])

const idOf = (of: 'link' | 'outlet', name: string) =>
  (of === 'link' ? lists.links : lists.outlets).find((one) => one.name.toLowerCase() === name.toLowerCase())?.id
const known = {
  link: (id: number) => lists.links.find((link) => link.id === id),
  outlet: (id: number) => lists.outlets.find((outlet) => outlet.id === id),
}
const read = computed(() => (text.value.trim() === '' ? null : readCopied(text.value, idOf)))
const rows = computed(() =>
  (read.value?.ok ? read.value.bridges : []).map((pasted) => ({
    pasted,
    problems: [
      ...pasted.missing.map((name) => `There is no ${name} here.`),
      ...(pasted.missing.length ? [] : bridgeProblems(pasted.draft, known).map(({ message }) => message)),
    ],
  })),
)
const sound = computed(() => rows.value.filter(({ problems }) => problems.length === 0))
const named = (pasted: Pasted): Pasted => ({
  ...pasted,
  draft: {
    ...pasted.draft,
    name: freeName(
      pasted.draft.name,
      lists.bridges.map(({ name }) => name),
    ),
  },
})
const openOne = (pasted: Pasted) => {
  open.value = false
  emit('one', named(pasted))
}
const makeAll = async () => {
  busy.value = true
  failed.value = []
  let made = 0
  for (const { pasted } of sound.value) {
    try {
      await callApi(makeBridge, { body: named(pasted).draft })
      made++
      await lists.refresh()
    } catch (error) {
      failed.value.push(`${pasted.draft.name}: ${asRefused(error).fields[0]?.message ?? asRefused(error).why.what}`)
    }
  }
  busy.value = false
  notices.tell(`${counted(made, 'bridge')} made.`)
  if (failed.value.length === 0 && made === rows.value.length) open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="720" aria-label="Paste bridges">
    <div class="sheet paste">
      <h2 class="sheet-title">Paste bridges</h2>
      <AreaField
        v-model="text"
        label="What was copied from a bridge, or the bridges of a site’s text"
        :rows="8"
        placeholder="bridges:"
        :message="read && !read.ok ? read.problem : ''"
      />
      <table v-if="rows.length" class="rows" aria-label="Bridges in the text">
        <tbody>
          <tr v-for="{ pasted, problems } in rows" :key="pasted.draft.name">
            <td>{{ pasted.draft.name }}</td>
            <td :class="problems.length ? 'is-late' : 'quiet'">{{ problems.slice(0, 3).join(' ') || 'all names fit' }}</td>
            <td class="act"><button type="button" class="link" @click="openOne(pasted)">Open as a sheet</button></td>
          </tr>
        </tbody>
      </table>
      <p v-for="why in failed" :key="why" class="is-broken">{{ why }}</p>
      <div class="buttons">
        <BusyButton v-if="rows.length > 1" variant="flat" :busy="busy" :disabled="sound.length === 0" @click="makeAll"
          >Make {{ counted(sound.length, 'bridge') }}</BusyButton
        >
        <v-btn v-else variant="flat" :disabled="rows.length === 0" @click="openOne(rows[0]!.pasted)">Open as a sheet</v-btn>
        <v-btn @click="open = false">Not now</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.paste {
  display: grid;
  gap: 12px;
  padding: 18px 20px;
  max-height: 80vh;
  overflow: auto;
}
.act {
  text-align: right;
  white-space: nowrap;
}
.link {
  color: var(--primary);
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
