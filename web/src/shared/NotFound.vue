<template>
  <main class="page">
    <div class="empty">
      <h1>Page not found</h1>
      <p><RouterLink to="/bench">Go to the bench</RouterLink></p>
    </div>
  </main>
</template>
