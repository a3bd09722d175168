import 'bootstrap-vue-next';

declare module 'bootstrap-vue-next' {
  interface BaseButtonVariant {
    plain: unknown;
    clean: unknown;
    clipped: unknown;
  }
}
