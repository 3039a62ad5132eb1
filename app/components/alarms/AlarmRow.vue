<script setup lang="ts">
import { severityWords } from '#core/alarms/words'
import { momentText } from '#core/text/moment'
import type { Alarm } from '#shared/alarms'

/** One line of the list. What changes with time comes as text, so that a line is drawn anew only where it says something else. */
const props = defineProps<{ alarm: Alarm; chosen: boolean; mayOperate: boolean; since: string; over: string; seenSince: string }>()
const emit = defineEmits<{ choose: [on: boolean]; acknowledge: []; comment: [] }>()
const severityClass = { note: 'quiet', caution: 'is-late', trouble: 'is-broken' } as const
const state = computed(() => (props.alarm.active ? (props.alarm.isUnknown ? 'active, value unknown' : 'active') : 'over'))
</script>

<template>
  <tr :class="{ unseen: !alarm.seen }">
    <td class="box">
      <input
        v-if="mayOperate && !alarm.seen"
        type="checkbox"
        :checked="chosen"
        :aria-label="`${alarm.path}, ${alarm.limit}`"
        @change="emit('choose', ($event.target as HTMLInputElement).checked)"
      />
    </td>
    <td class="state">
      <strong v-if="alarm.active" :class="severityClass[alarm.severity]">{{ state }}</strong>
      <span v-else class="quiet">{{ state }}</span>
      <span v-if="alarm.count > 1" class="below quiet">{{ alarm.count }} times</span>
    </td>
    <td :class="severityClass[alarm.severity]">{{ severityWords[alarm.severity] }}</td>
    <td class="mono wrap">
      <NuxtLink :to="`/tags?tag=${alarm.tagId}`">{{ alarm.path }}</NuxtLink>
    </td>
    <td class="wrap">
      {{ alarm.text }}
      <NuxtLink :to="`/trends?tags=${alarm.tagId}`" class="small">trend</NuxtLink>
    </td>
    <td class="when" :title="momentText(new Date(alarm.since).toISOString())">
      {{ since }}
      <span v-if="over" class="below quiet">over {{ over }}</span>
    </td>
    <td class="when">
      <template v-if="alarm.seen"
        >{{ alarm.seen.by || 'nobody has to' }}<span v-if="alarm.seen.by" class="below quiet">{{ seenSince }}</span></template
      >
      <v-btn v-else-if="mayOperate" height="24" @click="emit('acknowledge')">Acknowledge…</v-btn>
      <span v-else class="is-late">nobody yet</span>
    </td>
    <td class="wrap">
      <template v-if="alarm.comment"
        >{{ alarm.comment.text }} <span class="quiet">{{ alarm.comment.by }}</span></template
      >
      <button v-if="mayOperate" type="button" class="say" :aria-label="`Comment on ${alarm.path}, ${alarm.limit}`" @click="emit('comment')">
        {{ alarm.comment ? 'change' : 'comment' }}
      </button>
    </td>
  </tr>
</template>

<style scoped>
.box {
  width: 40px;
}
input {
  width: 18px;
  height: 18px;
  accent-color: var(--primary);
}
.unseen {
  background: var(--tint);
}
.state,
.when {
  white-space: nowrap;
}
.below {
  display: block;
  font-size: 12px;
}
.wrap {
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
}
.say {
  color: var(--primary);
  font-size: 12px;
}
</style>
