<template>
  <svg
    class="heron"
    viewBox="0 0 32 32"
    width="34"
    height="34"
    fill="none"
    stroke="currentColor"
    stroke-width="1.7"
    stroke-linecap="round"
    stroke-linejoin="round"
    aria-hidden="true"
  >
    <path
      d="M3 8.500 11.500 6.200c2.800-.7 4.600 1.200 3.700 3.700L12.500 16c4.200-2.900 9.500-1.700 13.500 2.200-3.900 3.100-9.400 4-13 1.500-2-1.400-1.600-2.900-.5-3.700M17.500 20.600V28.500M20.800 20.600V28.500M14.500 28.500H24"
    />
    <circle cx="12.200" cy="8.500" r=".6" fill="currentColor" stroke="none" />
  </svg>
</template>

<style scoped>
.heron {
  color: var(--ink);
}
</style>
