<script setup lang="ts">
import type { Trigger } from '#core/bridges/settings'
import { protocolOf } from '#core/links/registry'
import { alarmTurns, severities } from '#core/alarms/limits'
import { severityWords, turnWords } from '#core/alarms/words'
import { qosLevels, qosText } from '#core/mqtt/settings'
import { blankTrigger, messageOutlets, triggerTitles } from '~/bridges/blank'

/** What sets a bridge off, or has something else happen. */
const trigger = defineModel<Trigger>({ required: true })
const props = withDefaults(
  defineProps<{
    path: string
    messageFor(path: string): string
    /** Those that may be chosen. */
    kinds?: readonly Trigger['kind'][]
    label?: string
  }>(),
  { kinds: () => Object.keys(triggerTitles) as Trigger['kind'][], label: 'It runs when' },
)
const emit = defineEmits<{ left: [path: string] }>()
const lists = useLists()

const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const left = (field: string) => emit('left', `${props.path}.${field}`)
const choices = props.kinds.map((kind) => ({ value: kind, title: triggerTitles[kind] }))
const messageLinks = computed(() =>
  lists.links.filter(({ kind }) => protocolOf(kind).capabilities.messages).map(({ id, name }) => ({ value: id, title: name })),
)
const outlets = computed(() => messageOutlets(lists).map(({ id, name }) => ({ value: id, title: name })))
const qualities = qosLevels.map((qos) => ({ value: qos, title: `${qos}: ${qosText[qos]}` }))
const edges = [
  { value: 'true' as const, title: 'becomes true' },
  { value: 'false' as const, title: 'becomes false' },
  { value: 'either' as const, title: 'turns either way' },
]
const turns = alarmTurns.map((value) => ({ value, title: turnWords[value] }))
const turnsField = useId()
const severityChoices = severities.map((value) => ({ value, title: severityWords[value] }))
const ways = [
  { value: 'above' as const, title: 'above' },
  { value: 'below' as const, title: 'below' },
]

/** Another kind of the same tag keeps the tag. */
const choose = (kind: Trigger['kind']) => {
  const next = blankTrigger(kind, lists)
  if ('tag' in next && 'tag' in trigger.value) next.tag = trigger.value.tag
  if ('filter' in next && 'filter' in trigger.value) next.filter = trigger.value.filter
  trigger.value = next
}
</script>

<template>
  <div class="fields">
    <ChoiceField :model-value="trigger.kind" :label="label" :choices="choices" @update:model-value="choose" />
    <TagField
      v-if="'tag' in trigger"
      v-model="trigger.tag"
      class="wide"
      label="Tag, or a pattern of paths"
      placeholder="berth/*/shore/energy_import"
      :message="message('tag')"
      @left="left('tag')"
    />
    <NumberField
      v-if="trigger.kind === 'change'"
      v-model="trigger.by"
      label="By more than"
      hint="empty: by anything"
      :message="message('by')"
      @left="left('by')"
    />
    <ChoiceField v-else-if="trigger.kind === 'edge'" v-model="trigger.to" label="It" :choices="edges" />
    <template v-else-if="trigger.kind === 'limit'">
      <ChoiceField v-model="trigger.way" label="It goes" :choices="ways" />
      <NumberField v-model="trigger.limit" label="Limit" :message="message('limit')" @left="left('limit')" />
      <NumberField v-model="trigger.back" label="Back by, before it counts again" :message="message('back')" @left="left('back')" />
    </template>
    <NumberField
      v-else-if="trigger.kind === 'period'"
      v-model="trigger.every"
      label="Every"
      unit="ms"
      :message="message('every')"
      @left="left('every')"
    />
    <template v-else-if="trigger.kind === 'schedule'">
      <TextField
        v-model="trigger.cron"
        label="Schedule"
        mono
        hint="minute, hour, day, month, day of the week"
        :message="message('cron')"
        @left="left('cron')"
      />
      <TextField v-model="trigger.zone" label="Time zone" mono placeholder="Europe/Oslo" :message="message('zone')" @left="left('zone')" />
    </template>
    <FileTriggerFields
      v-else-if="trigger.kind === 'file'"
      v-model="trigger"
      :path="path"
      :message-for="messageFor"
      @left="emit('left', $event)"
    />
    <template v-else-if="trigger.kind === 'alarm'">
      <div>
        <label class="label" :for="turnsField">It is</label>
        <v-select
          :id="turnsField"
          v-model="trigger.turns"
          :items="turns"
          multiple
          chips
          closable-chips
          :error-messages="message('turns')"
          @blur="left('turns')"
        />
      </div>
      <ChoiceField v-model="trigger.severity" label="At least" :choices="severityChoices" />
    </template>
    <template v-else-if="trigger.kind === 'message' || trigger.kind === 'client'">
      <ChoiceField
        v-if="trigger.kind === 'message'"
        v-model="trigger.linkId"
        label="Over"
        :choices="messageLinks"
        :message="message('linkId')"
      />
      <ChoiceField v-else v-model="trigger.outletId" label="Outlet" :choices="outlets" :message="message('outletId')" />
      <TextField
        v-model="trigger.filter"
        class="wide"
        label="Topic or filter"
        mono
        placeholder="quay/+/count"
        :message="message('filter')"
        @left="left('filter')"
      />
      <ChoiceField v-if="trigger.kind === 'message'" v-model="trigger.qos" label="Quality of service" :choices="qualities" />
    </template>
  </div>
</template>
