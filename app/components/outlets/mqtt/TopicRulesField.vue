<script setup lang="ts">
import { topicRights, topicRightText, type TopicRule } from '#core/outlets/topicRules'

/** What may be done with which topics; what no line allows may not be done. */
const rules = defineModel<TopicRule[]>({ required: true })
const props = defineProps<{ what: string; path: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const choices = topicRights.map((right) => ({ value: right, title: topicRightText[right] }))
const nameOf = (i: number) => `${props.what}, filter ${i + 1}`
const filterAt = (i: number) => `${props.path}.${i}.filter`
</script>

<template>
  <div class="rules" role="group" :aria-label="what">
    <div v-for="(rule, i) in rules" :key="i" class="rule">
      <v-text-field
        v-model="rule.filter"
        :aria-label="nameOf(i)"
        placeholder="quay/#"
        class="mono"
        :error-messages="messageFor(filterAt(i))"
        @blur="emit('left', filterAt(i))"
      />
      <v-select v-model="rule.may" :items="choices" :aria-label="`${nameOf(i)} may be`" />
      <v-btn height="26" class="low" :aria-label="`Drop ${nameOf(i)}`" @click="rules.splice(i, 1)">Drop</v-btn>
    </div>
    <p v-if="rules.length === 0" class="quiet">Nothing: neither sent nor listened to.</p>
    <v-btn height="26" @click="rules.push({ filter: '', may: 'both' })">Add a filter</v-btn>
  </div>
</template>

<style scoped>
.rules {
  display: grid;
  gap: 6px;
  justify-items: start;
}
.rule {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 180px 64px;
  gap: 8px;
  width: 100%;
}
.low {
  margin-top: 3px;
}
p {
  margin: 0;
}
</style>
