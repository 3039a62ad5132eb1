<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { counted } from '#core/text/counted'
import { recordingContract, type RecordingDraft } from '#core/history/settings'
import { patternProblem } from '#core/tags/pattern'
import { changeRecording, makeRecording, matchRecording } from '#shared/api/history'
import type { MatchedTags, Recording } from '#shared/history'

/** Which tags are recorded, and how; beside it which those are now. */
const props = defineProps<{ recording: Recording | null }>()
const emit = defineEmits<{ saved: [recording: Recording]; close: [] }>()

const blank: RecordingDraft = { pattern: '', how: { kind: 'change', band: 0 } }
const draftOf = ({ pattern, how }: RecordingDraft): RecordingDraft => ({ pattern, how })
const form = useDraft<RecordingDraft>(props.recording ? draftOf(props.recording) : blank, recordingContract)
const { busy, refused, theirs, question, save, saveOverTheirs, take } = useSaving<RecordingDraft, Recording>({
  form,
  opened: props.recording,
  send: (draft, revision) =>
    props.recording
      ? callApi(changeRecording, { params: { id: props.recording.id }, body: { revision, recording: draft } })
      : callApi(makeRecording, { body: draft }),
  draftOf,
  tell: ({ pattern }) => `Recording “${pattern}” saved.`,
  after: (recording) => emit('saved', recording),
})
const { draft } = form

const kinds = [
  { value: 'change' as const, title: 'Every change', subtitle: 'each value that differs, with the time of its source' },
  { value: 'period' as const, title: 'At a fixed pace', subtitle: 'what the tag has then, also where it did not change' },
  { value: 'not' as const, title: 'Not at all', subtitle: 'leaves out what a wider recording would take' },
]
const kind = computed({
  get: () => draft.value.how.kind,
  set: (value) => {
    draft.value.how = value === 'change' ? { kind: value, band: 0 } : value === 'period' ? { kind: value, every: 1000 } : { kind: value }
  },
})

const matched = shallowRef<MatchedTags | null>(null)
let turn = 0
const look = useDebounceFn(async () => {
  const mine = ++turn
  const { pattern } = draft.value
  if (pattern.trim() === '' || patternProblem(pattern.trim()) !== null) return void (matched.value = null)
  const answer = await callApi(matchRecording, { body: { pattern: pattern.trim() } }).catch(() => null)
  if (mine === turn) matched.value = answer
}, 250)
watch(() => draft.value.pattern, look, { immediate: true })
</script>

<template>
  <form class="sheet sheet-columns recording" @submit.prevent="save">
    <div class="fields">
      <TextField
        v-model="draft.pattern"
        label="Which tags"
        placeholder="berth/**"
        mono
        autofocus
        :message="form.messageFor('pattern')"
        hint="A path, or a pattern: * stands for what differs within a level, ** at the end for all below"
        @left="form.touch('pattern')"
      />
      <div class="two">
        <ChoiceField v-model="kind" label="How" :choices="kinds" />
        <NumberField
          v-if="draft.how.kind === 'change'"
          v-model="draft.how.band"
          label="Deadband"
          unit="in the tag’s unit"
          :message="form.messageFor('how.band')"
          hint="0: every change"
          @left="form.touch('how.band')"
        />
        <NumberField
          v-else-if="draft.how.kind === 'period'"
          v-model="draft.how.every"
          label="Every"
          unit="ms"
          :message="form.messageFor('how.every')"
          @left="form.touch('how.every')"
        />
      </div>
      <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="take" @overwrite="saveOverTheirs" />
      <div class="buttons">
        <BusyButton type="submit" variant="flat" :busy="busy">Save</BusyButton>
        <v-btn @click="emit('close')">Cancel</v-btn>
        <slot />
      </div>
    </div>
    <div class="beside">
      <h2 class="sheet-title">These tags, now</h2>
      <p v-if="!matched" class="quiet">Type a path, and what it takes stands here.</p>
      <template v-else>
        <p>
          {{ counted(matched.tags, 'tag')
          }}<template v-if="matched.others > 0"
            >, of which {{ matched.others.toLocaleString('en-GB') }} are decided by a closer recording</template
          >.
          <span v-if="matched.tags === 0" class="is-late">None has such a path yet; those that come will be recorded.</span>
        </p>
        <p v-for="path in matched.first" :key="path" class="mono one">{{ path }}</p>
        <p v-if="matched.tags > matched.first.length" class="quiet">
          and {{ (matched.tags - matched.first.length).toLocaleString('en-GB') }} more
        </p>
      </template>
    </div>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.recording {
  padding: 14px 16px;
  margin-bottom: 14px;
}
.fields {
  display: grid;
  gap: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.beside p {
  margin: 6px 0 0;
}
.beside .one {
  margin: 2px 0 0;
  overflow-wrap: anywhere;
}
</style>
