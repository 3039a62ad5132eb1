<script setup lang="ts">
/** Over the page whose session ended: sign in again, and everything typed is still there. */
const session = useSession()
</script>

<template>
  <v-dialog :model-value="session.lost" persistent max-width="400" aria-label="Your session has ended">
    <div class="sheet again">
      <h2 class="sheet-title">Your session has ended</h2>
      <p class="quiet">Nothing on this page is lost. Sign in again to go on.</p>
      <SignInForm v-if="session.who" :name="session.who.name" />
    </div>
  </v-dialog>
</template>

<style scoped>
.again {
  padding: 20px 22px;
}
</style>
