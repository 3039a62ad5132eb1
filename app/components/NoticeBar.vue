<script setup lang="ts">
const notices = useNotices()
const open = computed({ get: () => notices.text !== '', set: (value) => !value && notices.tell('') })
</script>

<template>
  <v-snackbar
    :key="notices.turn"
    v-model="open"
    :timeout="notices.isProblem ? 12000 : 6000"
    :color="notices.isProblem ? 'break' : undefined"
    location="bottom right"
  >
    <span role="status">{{ notices.text }}</span>
    <template #actions>
      <v-btn v-if="notices.revision !== null" variant="text" color="inherit" @click="notices.takeBack()">Take it back</v-btn>
      <v-btn variant="text" color="inherit" @click="open = false">Close</v-btn>
    </template>
  </v-snackbar>
</template>
