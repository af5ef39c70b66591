<script setup lang="ts">
/** What somebody does with their own account: password, second factor, where they are logged in. */
import { user } from '@/shared/session'
import PasswordForm from './PasswordForm.vue'
import PlacesCard from './PlacesCard.vue'
import ProviderCard from './ProviderCard.vue'
import SecondFactor from './SecondFactor.vue'
</script>

<template>
  <main class="page">
    <h1>Your account</h1>
    <p class="soft">{{ user?.name }}, logged in as {{ user?.login }} of {{ user?.school }}.</p>
    <div class="cards">
      <PasswordForm />
      <SecondFactor v-if="user?.role === 'instructor' || user?.totp" />
      <ProviderCard />
      <PlacesCard />
    </div>
  </main>
</template>

<style scoped>
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(330px, 1fr));
  gap: 14px;
  align-items: start;
  margin-top: 12px;
}
</style>
