<script setup lang="ts">
import { loadDescriptions } from '#shared/api/deviceDescriptions'
import { takeSensor } from '#shared/api/links'
import { pathProblem } from '#core/tags/path'
import { counted } from '#core/text/counted'
import type { Link } from '#shared/links/link'
import type { SensorPortFound } from '#shared/links/sensorPorts'
import { platformsOf, sendFolder } from '~/outlets/sendFolder'

/** A device that came: its name, what it measures, live values, and taking it. */
const props = defineProps<{ link: Link; found: SensorPortFound; mayTake: boolean }>()
const emit = defineEmits<{ taken: []; keep: [] }>()
const notices = useNotices()
const { busy, refused, attempt } = useAttempt()
const chooser = ref<HTMLInputElement | null>(null)

const name = computed(() => props.found.described?.named || props.found.device?.productName || 'A device without a name')
const isWrong = computed(() => props.found.verdict === 'wrong')
const made = computed(() => {
  const { device, described } = props.found
  const product = device && device.productName !== described?.named ? device.productName : ''
  const of = [product, device?.vendorName && `of ${device.vendorName}`].filter(Boolean).join(' ')
  return [of, device?.serialNumber && `serial number ${device.serialNumber}`, described?.about].filter(Boolean).join(' · ')
})
const asFolder = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}-]+/gu, '_')
    .replace(/^_+|_+$/g, '')
/** What was typed; null: as it is suggested. */
const typed = ref<string | null>(null)
const folder = computed({
  get: () => typed.value ?? `${asFolder(props.link.name)}/${asFolder(name.value)}`,
  set: (text) => (typed.value = text),
})
const problem = computed(() => pathProblem(folder.value.trim()) ?? '')

const lists = useLists()
const platforms = computed(() => platformsOf(lists.outlets))
/** Where its values go besides; 0: nowhere. */
const sentTo = ref(0)
const every = ref<number | null>(null)
const destinations = computed(() => [
  { value: 0, title: 'nobody yet' },
  ...platforms.value.map((one) => ({ value: one.id, title: one.name })),
])

const take = async () => {
  if (problem.value !== '') return
  await attempt(async () => {
    const { id } = props.link
    const { made: paths, revision } = await callApi(takeSensor, {
      params: { id, port: props.found.port },
      body: { folder: folder.value.trim() },
    })
    const changed = sentTo.value === 0 ? null : await sendFolder(sentTo.value, folder.value.trim(), every.value)
    notices.tell(`${name.value} is taken: ${counted(paths.length, 'tag')} in ${folder.value.trim()}.`, changed ?? revision)
    emit('taken')
  })
}
const load = (file: File | undefined) =>
  attempt(async () => {
    if (!file) return
    const { loaded, revision } = await callApi(loadDescriptions, { query: { name: file.name }, body: file })
    notices.tell(`${counted(loaded.length, 'description')} loaded.`, revision ?? undefined)
    emit('taken')
  })
</script>

<template>
  <article class="sheet card" :aria-label="`Arrived at port ${found.port}`">
    <header>
      <span :class="isWrong ? 'is-broken' : 'is-late'" class="where"
        >{{ isWrong ? 'Another device' : 'Arrived' }} at port {{ found.port }}</span
      >
      <h2>{{ name }}</h2>
      <p class="quiet">{{ made }}</p>
    </header>
    <p v-if="isWrong" class="is-broken said">{{ found.problem }}</p>
    <table v-if="found.items.length" class="rows">
      <tbody>
        <tr v-for="item in found.items" :key="item.address" :title="item.about">
          <td>{{ item.name }}</td>
          <td class="mono value">{{ item.text || '—' }}</td>
          <td class="quiet unit">{{ item.unit }}</td>
        </tr>
      </tbody>
    </table>
    <template v-if="!found.described">
      <p class="said">What its values mean is not known here: its description is not loaded.</p>
      <div v-if="mayTake" class="buttons">
        <BusyButton variant="flat" :busy="busy" @click="chooser?.click()">Load its description</BusyButton>
        <span class="quiet"
          >an IODD of its maker, XML or zipped: vendor {{ found.device?.vendorId }}, device {{ found.device?.deviceId }}</span
        >
        <input
          ref="chooser"
          class="visually-hidden"
          type="file"
          accept=".xml,.zip"
          :aria-label="`Description of the device at port ${found.port}`"
          tabindex="-1"
          @change="load(chooser?.files?.[0])"
        />
      </div>
    </template>
    <template v-else-if="isWrong">
      <div v-if="mayTake" class="buttons">
        <BusyButton :busy="busy" @click="$emit('keep')">Let it belong here</BusyButton>
        <span class="quiet">the tags of this port stay as they are</span>
      </div>
    </template>
    <!-- no form of its own: it stands beside the sheet, in the sheet's -->
    <div v-else-if="mayTake" class="take">
      <TextField v-model="folder" label="Its tags go to" mono :message="problem" @keydown.enter.prevent.stop="take" />
      <ChoiceField v-if="platforms.length" v-model="sentTo" label="Its values also go to" :choices="destinations" />
      <NumberField v-if="sentTo" v-model="every" label="At most every" unit="ms" hint="empty: each change" />
      <BusyButton variant="flat" :busy="busy" :disabled="problem !== '' || Number.isNaN(every)" @click="take">Take it</BusyButton>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" mild />
  </article>
</template>

<style scoped>
.card {
  padding: 14px 18px;
  margin-bottom: 12px;
  border-left: 3px solid var(--copper);
}
.where {
  font-size: 12px;
}
h2 {
  margin: 2px 0 0;
  font-size: 17px;
  font-weight: 600;
  overflow-wrap: anywhere;
}
header p {
  margin: 2px 0 0;
  font-size: 12px;
}
.rows {
  width: 100%;
  margin: 10px 0;
}
.value {
  text-align: right;
  overflow-wrap: anywhere;
}
.unit {
  width: 64px;
}
.said {
  margin: 8px 0;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  font-size: 12px;
}
.take {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: start;
}
.take > :first-child {
  flex: 1 1 220px;
}
.take .v-btn {
  margin-top: 22px;
}
</style>
