import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  test: {
    environment: "jsdom",
    setupFiles: ["tests/setup.ts"],
    include: ["tests/**/*.test.{ts,tsx}"],
    restoreMocks: true,
    // A limit that only a fault reaches, however busy the machine is.
    testTimeout: 60_000,
    isolate: false,
    fileParallelism: false,
  },
});
