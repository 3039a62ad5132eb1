<script setup lang="ts">
import { rights, rightText, type FolderRule } from '#core/outlets/rules'

/** What may be done in which folder; the closest line holds. */
const rules = defineModel<FolderRule[]>({ required: true })
const props = defineProps<{ what: string; path: string; folders: readonly string[]; messageFor(path: string): string }>()

const choices = rights.map((right) => ({ value: right, title: rightText[right] }))
const add = () => rules.value.push({ folder: '', may: 'read' })
const nameOf = (i: number) => `${props.what}, folder ${i + 1}`
</script>

<template>
  <div class="rules" role="group" :aria-label="what">
    <div v-for="(rule, i) in rules" :key="i" class="rule">
      <v-combobox
        :model-value="rule.folder || null"
        :items="folders"
        :aria-label="nameOf(i)"
        placeholder="the whole site"
        class="mono"
        :error-messages="messageFor(`${path}.${i}.folder`)"
        @update:model-value="rule.folder = $event ?? ''"
      />
      <v-select v-model="rule.may" :items="choices" :aria-label="`${nameOf(i)} may be`" />
      <v-btn v-if="rules.length > 1" height="26" class="low" :aria-label="`Drop ${nameOf(i)}`" @click="rules.splice(i, 1)">Drop</v-btn>
    </div>
    <v-btn height="26" @click="add">Add a folder</v-btn>
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
  grid-template-columns: minmax(0, 1fr) 220px 64px;
  gap: 8px;
  width: 100%;
}
/* no folder is a choice, too */
.rule :deep(input::placeholder) {
  color: var(--ink);
  opacity: 1;
}
.low {
  margin-top: 3px;
}
</style>
