<script setup lang="ts">
/** Why a device warns of the workshop's certificate, and how it comes to trust it. */
import FoldBox from '@/components/FoldBox.vue';

defineProps<{ fingerprint?: string | null }>();
</script>

<template>
  <FoldBox title="The device warns of the certificate">
    <p>
      The workshop signs its own certificate, so each device must trust it once. Without that the app works,
      but the device shows a warning, and microphone, wake lock and offline work may stay off.
    </p>
    <ol>
      <li>
        <a href="/api/doors/authority" download>Save the workshop’s certificate</a> on this device. It can
        sign for this machine and private networks only.
      </li>
      <li>
        Before you trust it, have the device show its SHA-256 fingerprint: it must be the one that the machine
        printed when it started<template v-if="fingerprint"
          >: <code class="print">{{ fingerprint }}</code></template
        >.
      </li>
      <li>
        <strong>Phones and tablets with an “install a certificate” page</strong> (in the settings, under
        security, encryption): choose <em>CA certificate</em> there, then the file.
      </li>
      <li>
        <strong>Phones and tablets that offer it as a profile:</strong> install the profile in the settings,
        then switch on full trust for it where they list trusted certificates.
      </li>
      <li>
        <strong>Computers:</strong> open the file and put it among the trusted root authorities, for this user
        alone.
      </li>
      <li>
        <strong>A browser with a list of its own:</strong> import it in its settings under certificates,
        authorities, to identify websites.
      </li>
      <li>Close the browser, open the app again: the warning is gone.</li>
    </ol>
    <p class="mb-0">The names of these pages differ from maker to maker; the device’s own help has them.</p>
  </FoldBox>
</template>

<style scoped>
.print {
  display: block;
  overflow-wrap: anywhere;
}
</style>
