<script setup lang="ts">
import { keepingContract, type HistoryKeeping } from '#core/history/settings'

/** How long what was recorded is kept, and how much space it may take. */
const props = defineProps<{ keeping: HistoryKeeping }>()
const emit = defineEmits<{ keep: [keeping: HistoryKeeping] }>()
const form = useDraft<HistoryKeeping>({ ...props.keeping }, keepingContract)
const { draft } = form
watch(
  () => JSON.stringify(props.keeping),
  () => form.reset({ ...props.keeping }),
)
const whenShort: { value: HistoryKeeping['whenShort']; title: string; subtitle: string }[] = [
  { value: 'drop', title: 'the oldest goes', subtitle: 'Single samples and seconds, day by day; minutes and hours stay.' },
  { value: 'stop', title: 'recording stops', subtitle: 'Nothing is given up; before the disk is full, nothing more is recorded.' },
]
const save = () => {
  form.triedToSave.value = true
  if (form.isValid.value) emit('keep', keepingContract.parse(draft.value))
}
</script>

<template>
  <form class="keeping" @submit.prevent="save">
    <NumberField v-model="draft.sample as number | null" label="Single samples for" unit="days" :message="form.messageFor('sample')" />
    <NumberField v-model="draft.second as number | null" label="Seconds for" unit="days" :message="form.messageFor('second')" />
    <NumberField v-model="draft.minute as number | null" label="Minutes for" unit="days" :message="form.messageFor('minute')" />
    <NumberField v-model="draft.hour" label="Hours for" unit="days" hint="Empty: for ever" :message="form.messageFor('hour')" />
    <NumberField v-model="draft.mostGb" label="All of it at most" unit="GB" hint="Empty: no limit" :message="form.messageFor('mostGb')" />
    <ChoiceField v-model="draft.whenShort" label="When the disk is short" :choices="whenShort" :message="form.messageFor('whenShort')" />
    <v-btn type="submit" :disabled="!form.isDirty.value">Keep it so</v-btn>
  </form>
</template>

<style scoped>
.keeping {
  display: grid;
  grid-template-columns: repeat(6, minmax(110px, 1fr)) auto;
  gap: 12px;
  align-items: end;
  padding: 12px 14px 14px;
  border-top: 1px solid var(--line-soft);
}
.keeping > :deep(.v-btn) {
  margin-bottom: 1px;
}
</style>
