<script setup lang="ts">
import { topicOf, topicPatternProblem } from '#core/outlets/topicPattern'
import { qosLevels, qosText } from '#core/mqtt/settings'
import type { Publication } from '#shared/outlets/mqttBroker'

/** Tags of one folder as topics. */
const one = defineModel<Publication>({ required: true })
const props = defineProps<{ number: number; folders: readonly string[]; example: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string]; drop: [] }>()

const at = (field: string) => `settings.publishes.${props.number - 1}.${field}`
const message = (field: string) => props.messageFor(at(field))
const forms = [
  { value: 'json' as const, title: 'JSON', subtitle: 'value, time, quality and unit' },
  { value: 'plain' as const, title: 'the value alone', subtitle: 'while it is good' },
]
const qualities = qosLevels.map((qos) => ({ value: qos, title: `${qos}: ${qosText[qos]}` }))
const shownTopic = (pattern: string) => (pattern && topicPatternProblem(pattern) === null ? topicOf(pattern, props.example) : '')
</script>

<template>
  <fieldset class="framed">
    <legend>{{ one.folder || 'The whole site' }}</legend>
    <div class="grid">
      <div class="wide">
        <label class="label" :for="`folder-${number}`">Folder</label>
        <v-combobox
          :id="`folder-${number}`"
          :model-value="one.folder || null"
          :items="folders"
          placeholder="the whole site"
          class="mono"
          :error-messages="message('folder')"
          @update:model-value="one.folder = $event ?? ''"
        />
      </div>
      <TextField
        v-model="one.topic"
        class="wide"
        label="Topic"
        mono
        placeholder="{path}"
        :hint="shownTopic(one.topic) ? `${example} becomes ${shownTopic(one.topic)}` : ''"
        :message="message('topic')"
        @left="emit('left', at('topic'))"
      />
      <TextField
        v-model="one.set"
        class="wide"
        label="Topic that sets a tag"
        mono
        placeholder="none"
        :hint="shownTopic(one.set)"
        :message="message('set')"
        @left="emit('left', at('set'))"
      />
      <ChoiceField v-model="one.form" label="Payload" :choices="forms" />
      <NumberField
        v-model="one.every"
        label="Gathered for"
        unit="ms"
        hint="empty: on each change"
        :message="message('every')"
        @left="emit('left', at('every'))"
      />
      <ChoiceField v-model="one.qos" label="Quality of service" :choices="qualities" />
      <v-switch v-model="one.retain" label="Kept for who comes later" />
    </div>
    <v-btn height="26" class="drop" @click="emit('drop')">Drop</v-btn>
  </fieldset>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.wide {
  grid-column: 1 / -1;
}
.drop {
  margin-top: 10px;
}
</style>
