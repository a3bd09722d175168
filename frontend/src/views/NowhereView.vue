<template>
  <section class="sheet mt-3">
    <h1>Nothing here</h1>
    <p>This address belongs to no page. <RouterLink :to="{ name: 'jobs' }">Go to the jobs.</RouterLink></p>
  </section>
</template>
