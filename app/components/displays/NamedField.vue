<script setup lang="ts">
/** What a pane shows: a property of the equipment by its name, or a tag by its path. */
const named = defineModel<string>({ required: true })
const props = defineProps<{ label: string; className: string; message?: string }>()
const emit = defineEmits<{ left: [] }>()
const equipment = useEquipment()
const properties = computed(() =>
  props.className === ''
    ? []
    : equipment.model.propertiesOf(props.className).map(({ name, title }) => ({ value: name, title: title || name })),
)
</script>

<template>
  <TagField
    v-model="named"
    :label="label"
    :among="properties"
    :message="message ?? ''"
    :placeholder="properties[0]?.value ?? 'berth/1/shore/active_power'"
    @left="emit('left')"
  />
</template>
