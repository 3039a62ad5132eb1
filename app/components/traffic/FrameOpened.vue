<script setup lang="ts">
import type { OpenedFrame } from '#core/traffic/frameBook'
import { bytesLines } from '#core/text/bytesText'
import { counted } from '#core/text/counted'
import { microText } from '#core/text/moment'

/** A frame, all of it: what it belongs to, its fields, its bytes. */
const props = defineProps<{ frame: OpenedFrame; between: string }>()
const emit = defineEmits<{ choose: [n: number | null]; only: [field: { name: string; means: string }] }>()
const { copied, copy } = useCopy()
const name = computed(() => {
  const words = { request: 'Request', answer: 'Answer', notice: 'Message', piece: props.frame.out ? 'Sent' : 'Came' }
  return words[props.frame.role]
})
const beside = computed(() => {
  const { role, answerMs } = props.frame
  if (answerMs === null) return ''
  return role === 'answer' ? `to the request ${answerMs.toFixed(1)} ms before` : `answered ${answerMs.toFixed(1)} ms after`
})
const isWrong = computed(() => props.frame.outcome === 'refused')
</script>

<template>
  <aside class="sheet opened" aria-label="Frame">
    <div class="sheet-title head">
      <span
        ><strong>{{ name }} of {{ microText(frame.at) }}</strong
        >{{ ' '
        }}<button v-if="frame.partner !== null" type="button" class="partner" @click="emit('choose', frame.partner)">
          {{ beside }}
        </button></span
      >
      <v-btn height="24" @click="emit('choose', null)">Close</v-btn>
    </div>
    <div class="body">
      <p :class="{ 'is-broken': isWrong }">
        {{ frame.summary }}<span v-if="frame.asked" class="quiet"> ← {{ frame.asked }}</span
        ><template v-if="frame.outcome === 'unanswered'"> — no answer came</template>
      </p>
      <p class="quiet">
        {{ between }} · {{ counted(frame.length, 'byte')
        }}<template v-if="frame.bytes.length < frame.length">, the first {{ frame.bytes.length.toLocaleString('en-GB') }} kept</template>
        <NuxtLink v-if="isWrong" class="why" :to="{ path: '/journal/codes', query: { text: frame.summary } }">Why, and what to do</NuxtLink>
      </p>
      <FrameFields :fields="frame.fields" :data="frame.bytes" @only="(field) => emit('only', field)" />
      <v-btn height="24" @click="copy(bytesLines(frame.bytes))">{{ copied ? 'Copied' : 'Copy the bytes' }}</v-btn>
    </div>
  </aside>
</template>

<style scoped>
.opened {
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  padding: 7px 10px 7px 14px;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
}
.head strong {
  font-weight: 600;
}
.partner {
  color: var(--quiet);
  text-decoration: underline;
}
.body {
  padding: 10px 14px 14px;
  overflow: auto;
}
.body p {
  margin: 0 0 6px;
  overflow-wrap: anywhere;
}
.why {
  margin-left: 8px;
}
</style>
