<script setup lang="ts">
import { moves, type Move, type RecordSetDraft } from '#core/records/settings'
import { moveText } from '#core/records/words'

/** How often rows are read again, and how a cursor is moved. */
const draft = defineModel<RecordSetDraft>({ required: true })
defineProps<{ part: 'again' | 'moves'; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const again = computed(() => ('again' in draft.value.how ? draft.value.how.again : null))
const cursor = computed(() => (draft.value.how.kind === 'cursor' ? draft.value.how : null))
const turn = (move: Move, on: boolean) => {
  if (cursor.value) cursor.value.moves = moves.filter((one) => (one === move ? on : cursor.value!.moves.includes(one)))
}
</script>

<template>
  <div v-if="part === 'again' && again" class="fields">
    <NumberField
      v-model="again.every"
      label="Every"
      unit="ms"
      hint="empty: only when it moved, or on request"
      :message="messageFor('how.again.every')"
      @left="emit('left', 'how.again.every')"
    />
    <TextField
      v-model="again.stamp"
      label="When this column moves"
      mono
      placeholder="changed_at"
      hint="a time or number that grows with each change"
      :message="messageFor('how.again.stamp')"
      @left="emit('left', 'how.again.stamp')"
    />
    <NumberField v-if="again.stamp" v-model="again.look" label="Look at it every" unit="ms" :message="messageFor('how.again.look')" />
    <p class="quiet whole note">Its tag <span class="mono">read_again</span> reads it whenever a consumer writes true.</p>
  </div>
  <div v-else-if="cursor" class="fields">
    <v-switch
      v-for="move in moves"
      :key="move"
      :model-value="cursor.moves.includes(move)"
      :label="moveText(move)"
      @update:model-value="turn(move, $event === true)"
    />
    <p class="quiet whole note">Each becomes a tag that consumers write. At either end it stays where it is, and says so.</p>
  </div>
</template>
