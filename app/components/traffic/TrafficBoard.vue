<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { counted } from '#core/text/counted'
import { allFrames, isEverything, wordsOf, type FrameFilter } from '#core/traffic/filter'
import { readableKinds } from '#core/traffic/capture/guess'
import { savedForms, type SavedForm } from '#core/traffic/saved'
import type { TrafficSource } from '~/composables/useTraffic'

/** Frames of a link, an outlet or a file: filtered, opened, saved. */
const props = defineProps<{
  source: (TrafficSource & { value: string; title: string }) | null
  choices: readonly { value: string; title: string }[]
}>()
const emit = defineEmits<{ choose: [value: string | null] }>()
const notices = useNotices()
const session = useSession()
const { desk, state, connections, rows, from, filter, opened, problem, show, open, arm, clear, renew, openFile, save } = useTrafficDesk()
const { lost, held, refused, goOn } = useTraffic(
  () => props.source,
  (ends, frames) => desk.take(ends, frames),
)

/** A file that is shown in place of what passes. */
const file = shallowRef<File | null>(null)
watch(
  () => props.source?.value,
  () => {
    if (!props.source) return
    file.value = null
    void renew()
  },
)

// what is looked for
const words = ref<string | null>('')
const settled = refDebounced(words, 200)
const change = (part: Partial<FrameFilter>) => (filter.value = { ...filter.value, ...part })
watch(settled, (text) => change({ words: wordsOf(text ?? '') }))
const outcomes = [
  { value: 'any', title: 'any outcome' },
  { value: 'trouble', title: 'all trouble' },
  { value: 'refused', title: 'refused' },
  { value: 'odd', title: 'odd' },
  { value: 'unanswered', title: 'unanswered' },
] as const
const slownesses = [
  { value: null, title: 'any time' },
  ...[10, 50, 100, 500, 1000].map((ms) => ({ value: ms, title: `over ${ms.toLocaleString('en-GB')} ms` })),
]
const ends = computed(() => connections.value.map(({ id, here, peer }) => ({ value: id, title: here ? `${here} – ${peer}` : peer })))
const everything = () => {
  words.value = ''
  filter.value = allFrames
}

// between whom
const shownEnd = computed(() => {
  const { connection } = filter.value
  const those = connection === null ? connections.value : connections.value.filter(({ id }) => id === connection)
  return new Set(those.map(({ peer }) => peer)).size === 1 ? those[0] : undefined
})
const left = computed(() => (file.value ? (shownEnd.value?.here ?? 'Who asks') : 'Here'))
const right = computed(() => shownEnd.value?.peer ?? (file.value ? 'Who answers' : 'Far side'))
const between = computed(() => {
  const { connection } = opened.value ?? {}
  const known = connections.value.find(({ id }) => id === connection)
  return known ? `${known.here || 'here'} – ${known.peer}` : `connection ${connection}`
})
const choose = (n: number | null) => open(n)

// files
const picker = ref<HTMLInputElement | null>(null)
const longestFile = 512 * 1024 * 1024
const readAs = ref<string | null>(null)
const pick = async (event: Event) => {
  const [picked] = (event.target as HTMLInputElement).files ?? []
  ;(event.target as HTMLInputElement).value = ''
  if (!picked) return
  if (picked.size > longestFile)
    return notices.tell(`“${picked.name}” is longer than 512 MB. Cut it into pieces with the tool that it was captured with.`)
  emit('choose', null)
  file.value = picked
  readAs.value = null
  await read()
}
const read = async () => {
  const { value: wanted } = file
  const unread = ({ message }: Error) => notices.tell(`“${wanted?.name}” could not be read (${message}). Choose it once more.`)
  if (wanted) await openFile(wanted, readAs.value).catch(unread)
}
const kinds = [
  { value: null, title: 'as what it seems to be' },
  ...Object.keys(readableKinds).map((kind) => ({ value: kind, title: `as ${kind}` })),
]
const formTitles: Record<SavedForm, string> = { text: 'Text', csv: 'CSV', jsonl: 'JSON Lines', pcapng: 'Packets, pcapng' }
const name = computed(() => `traffic of ${props.source?.title ?? file.value?.name ?? 'nothing'}`.replace(/[^\w .-]/g, '_'))

// what there is, in words
const sentence = computed(() => {
  const { first = 0, end = 0, shown = 0, bytes = 0, limits } = state.value ?? {}
  const kept = end - first
  const all = isEverything(filter.value) ? counted(kept, 'frame') : `${shown.toLocaleString('en-GB')} of ${counted(kept, 'frame')}`
  const room = limits ? ` · ${megabytes(bytes)} of ${megabytes(limits.bytes)} MB` : ''
  return all + (file.value ? '' : room) + (first > 0 && !file.value ? `, the oldest ${counted(first, 'frame')} made room` : '')
})
const megabytes = (bytes: number) => (bytes / 1024 / 1024).toFixed(bytes < 1e8 ? 1 : 0)
const found = computed(() => {
  const { found: of, problem: unread } = state.value ?? {}
  if (!of) return []
  return [
    unread ?? '',
    of.gaps > 0 ? `${counted(of.gaps, 'gap')}: ${counted(of.missingBytes, 'byte')} were not captured` : '',
    of.gaps === 0 && of.missingBytes > 0 ? `${counted(of.missingBytes, 'byte')} were cut off when captured` : '',
    of.repeatedBytes > 0 ? `${counted(of.repeatedBytes, 'byte')} came twice` : '',
    of.others > 0 ? `${counted(of.others, 'packet')} of other protocols` : '',
  ].filter(Boolean)
})
const isWorking = computed(() => (state.value?.done ?? 1) < 1)
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <h1>Traffic</h1>
      <span class="quiet">of</span>
      <v-select
        class="of"
        aria-label="Whose traffic"
        :model-value="source?.value ?? null"
        :items="choices"
        :placeholder="file?.name ?? 'a link, an outlet or a file'"
        @update:model-value="(value: string | null) => emit('choose', value)"
      />
      <v-select v-if="file" v-model="readAs" class="as" aria-label="Read as" :items="kinds" @update:model-value="read" />
      <template v-if="source">
        <span class="quiet">keeping</span>
        <TriggerMenu :state="state?.trigger ?? null" @arm="arm" @caught="desk.caught" />
      </template>
      <span class="fill" />
      <div class="head-buttons">
        <template v-if="source">
          <v-btn v-if="held" variant="flat" @click="goOn">Go on</v-btn>
          <v-btn v-else @click="held = true">Hold</v-btn>
          <v-btn :disabled="!state || state.end === state.first" @click="clear">Clear</v-btn>
        </template>
        <input
          ref="picker"
          type="file"
          class="visually-hidden"
          tabindex="-1"
          aria-label="A file of packets"
          accept=".pcapng,.pcap,.cap"
          @change="pick"
        />
        <v-btn @click="picker?.click()">Open a file …</v-btn>
        <v-menu>
          <template #activator="{ props: opener }">
            <v-btn v-bind="opener" variant="flat" :disabled="!state?.shown">Save …</v-btn>
          </template>
          <v-list>
            <v-list-item v-for="form in savedForms" :key="form" :title="formTitles[form]" @click="save(form, name)" />
          </v-list>
        </v-menu>
      </div>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <p v-if="problem" class="is-broken" role="alert">Frames cannot be laid out here: {{ problem }}. Load the page again.</p>
    <div class="bar">
      <ListFilter v-model="words" label="Filter by words" />
      <v-select
        class="narrow"
        aria-label="Outcome"
        :model-value="filter.outcome"
        :items="outcomes"
        @update:model-value="(outcome) => change({ outcome })"
      />
      <v-select
        class="narrow"
        aria-label="Slower than"
        :model-value="filter.slowerMs"
        :items="slownesses"
        @update:model-value="(slowerMs) => change({ slowerMs })"
      />
      <v-select
        v-if="ends.length > 1"
        class="which"
        aria-label="Connection"
        :model-value="filter.connection"
        :items="ends"
        :placeholder="counted(ends.length, 'connection')"
        clearable
        @update:model-value="(connection: number | null) => change({ connection })"
      />
      <button v-if="filter.field" type="button" class="chip" title="Take this filter away" @click="change({ field: null })">
        {{ filter.field.name }} = {{ filter.field.means }} ×
      </button>
      <v-btn v-if="!isEverything(filter)" height="26" @click="everything">All of them</v-btn>
      <span class="fill" />
      <span class="quiet" role="status"
        >{{ sentence }}<span v-if="lost" class="is-late"> · {{ counted(lost, 'frame') }} passed too fast to be kept</span
        ><template v-if="held"> · held</template
        ><template v-if="isWorking"> · {{ Math.floor((state?.done ?? 0) * 100) }} % looked through</template></span
      >
    </div>
    <p v-if="found.length > 0" class="quiet found" role="status">{{ found.join(' · ') }}</p>
    <div class="both" :class="{ two: opened }">
      <section class="sheet list">
        <FrameList
          :rows
          :from
          :total="state?.shown ?? 0"
          :chosen="opened"
          :left
          :right
          :follows="source !== null"
          @show="show"
          @choose="choose"
        >
          <template #nothing>
            <span v-if="!source && !file" role="cell"
              >Choose a link or an outlet, and what passes there is laid out here while this page is open. Or open a file of packets that
              was captured elsewhere: it is read here, and sent nowhere.</span
            >
            <span v-else-if="isWorking" role="cell">Reading …</span>
            <span v-else-if="!isEverything(filter)" role="cell">Nothing of it is as the filter wants it.</span>
            <span v-else role="cell">{{
              file ? 'Nothing in this file is TCP or UDP.' : 'Nothing passed since this page was opened.'
            }}</span>
          </template>
        </FrameList>
      </section>
      <FrameOpened
        v-if="opened"
        :frame="opened"
        :between
        @choose="choose"
        @only="(field) => change({ field: { name: field.name, means: field.means } })"
      />
    </div>
    <p v-if="!session.can('configure')" class="quiet">Only whoever may configure sees what passes here; files can be opened by all.</p>
  </div>
</template>

<style scoped>
.of {
  max-width: 240px;
}
.as {
  max-width: 210px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 10px;
}
.narrow {
  max-width: 140px;
}
.which {
  max-width: 300px;
}
.found {
  margin: 0 0 8px;
}
.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  flex: 1;
  min-height: 0;
}
.both.two {
  grid-template-columns: minmax(0, 1fr) minmax(300px, 420px);
}
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
}
</style>
