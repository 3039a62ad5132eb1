<script setup lang="ts">
/** Names with what goes under them: headers, or the parts of a query. */
const fields = defineModel<{ name: string; value: string; optional?: boolean }[]>({ required: true })
/** `optional`: some may be left out where nothing is given for them. */
const props = defineProps<{ what: string; optional?: boolean; path: string; message(path: string): string }>()
defineEmits<{ left: [path: string] }>()
const add = () => fields.value.push({ name: '', value: '', ...(props.optional ? { optional: false } : {}) })
</script>

<template>
  <div class="fields" :class="{ whole: fields.length > 0 }">
    <div v-for="(field, i) in fields" :key="i" class="pair" :class="{ choosy: optional }">
      <TextField
        v-model="field.name"
        :label="`${what} ${i + 1}`"
        mono
        :message="message(`${path}.${i}.name`)"
        @left="$emit('left', `${path}.${i}.name`)"
      />
      <TextField
        v-model="field.value"
        :label="`Says ${i + 1}`"
        mono
        :message="message(`${path}.${i}.value`)"
        @left="$emit('left', `${path}.${i}.value`)"
      />
      <v-checkbox
        v-if="optional"
        v-model="field.optional"
        class="may"
        density="compact"
        hide-details
        :label="`${what} ${i + 1} may be left out`"
      />
      <v-btn height="26" class="drop" @click="fields.splice(i, 1)">Drop</v-btn>
    </div>
    <v-btn height="26" class="add" @click="add">+ {{ what.toLowerCase() }}</v-btn>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 8px;
}
.whole {
  flex: 1 0 100%;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1.6fr auto;
  gap: 8px;
}
.choosy {
  grid-template-columns: 1fr 1.6fr auto auto;
}
.drop,
.may {
  margin-top: 22px;
}
.add {
  justify-self: start;
}
</style>
