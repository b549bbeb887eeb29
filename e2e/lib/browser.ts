/** Debian's Chromium without a window (a third less work a page), and without anything that would reach for the network. */
export const browser = {
  browserName: 'chromium' as const,
  launchOptions: {
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium-headless-shell',
    args: [
      '--headless',
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  },
}
