<script setup lang="ts">
import type { Destination } from '#core/bridges/settings'
import { guaranteeText } from '#core/bridges/words'

/** What becomes of records while their receiver is away, and what that guarantees. */
const destination = defineModel<Destination>({ required: true })
const props = defineProps<{ path: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const message = (field: string) => props.messageFor(`${props.path}.away.${field}`)
const choices = [
  { value: 'all' as const, title: 'keep until delivered, in order' },
  { value: 'latest' as const, title: 'keep the latest only' },
  { value: 'none' as const, title: 'drop' },
]
</script>

<template>
  <div class="fields">
    <ChoiceField v-model="destination.away.keep" label="While it is away" :choices="choices" />
    <template v-if="destination.away.keep === 'all'">
      <NumberField
        v-model="destination.away.most"
        label="Up to"
        unit="MB"
        :message="message('most')"
        @left="emit('left', `${path}.away.most`)"
      />
      <NumberField
        v-model="destination.away.days"
        label="No older than"
        unit="days"
        hint="empty: none is too old"
        :message="message('days')"
        @left="emit('left', `${path}.away.days`)"
      />
    </template>
    <p class="quiet whole">{{ guaranteeText(destination) }}</p>
  </div>
</template>

<style scoped>
.whole {
  grid-column: 1 / -1;
  margin: 0;
  max-width: 90ch;
}
</style>
