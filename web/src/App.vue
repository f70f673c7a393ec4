<script setup lang="ts"></script>

<template>
  <v-app>
    <router-view />
  </v-app>
</template>
