<template>
  <main class="page">
    <div class="empty">
      <h1>There is nothing at this address</h1>
      <p><RouterLink to="/bench">Go to the bench</RouterLink></p>
    </div>
  </main>
</template>
