<script setup lang="ts">
import { places } from '~/stations'

const open = defineModel<boolean>({ required: true })
const keys = [
  ['Ctrl K', 'find a link, tag, address or action'],
  ...places.map(({ key, title }) => [`g ${key}`, `go to ${title}`]),
  ['/', 'filter the list'],
  ['↑ ↓', 'move in a list'],
  ['Enter', 'open'],
  ['e', 'edit the chosen one'],
  ['n', 'make a new one'],
  ['w', 'add the chosen tag to the watch list'],
  ['F1', 'look up addresses, in the sheet of a tag'],
  ['Esc', 'close'],
  ['?', 'this list'],
]
</script>

<template>
  <v-dialog v-model="open" max-width="380" aria-label="Keys">
    <div class="sheet keys">
      <h2 class="sheet-title">Keys</h2>
      <dl>
        <template v-for="[key, meaning] in keys" :key="key">
          <dt>
            <kbd>{{ key }}</kbd>
          </dt>
          <dd>{{ meaning }}</dd>
        </template>
      </dl>
    </div>
  </v-dialog>
</template>

<style scoped>
.keys {
  padding: 16px 20px;
}
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 6px;
  margin: 10px 0 0;
}
dd {
  margin: 0;
}
kbd {
  font: 12px var(--mono);
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 1px 6px;
}
</style>
