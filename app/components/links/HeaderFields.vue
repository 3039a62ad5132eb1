<script setup lang="ts">
/** Names with what goes under them: headers, or the parts of a query. */
const fields = defineModel<{ name: string; value: string }[]>({ required: true })
defineProps<{ what: string; path: string; message(path: string): string }>()
defineEmits<{ left: [path: string] }>()
const add = () => fields.value.push({ name: '', value: '' })
</script>

<template>
  <div class="fields" :class="{ whole: fields.length > 0 }">
    <div v-for="(field, i) in fields" :key="i" class="pair">
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
.drop {
  margin-top: 22px;
}
.add {
  justify-self: start;
}
</style>
