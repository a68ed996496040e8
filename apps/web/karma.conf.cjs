process.env.CHROME_BIN ??= '/usr/bin/chromium';
module.exports = (config) =>
  config.set({
    basePath: '',
    frameworks: ['jasmine'],
    plugins: [require('karma-jasmine'), require('karma-chrome-launcher')],
    client: { jasmine: { random: true, timeoutInterval: 120000 }, clearContext: false },
    reporters: ['dots'],
    browsers: ['ChromeHeadlessCI'],
    customLaunchers: {
      ChromeHeadlessCI: {
        base: 'ChromeHeadless',
        flags: [
          '--no-sandbox',
          '--disable-dev-shm-usage',
          '--disable-background-networking',
          '--disable-component-update',
          '--disable-sync',
          '--no-first-run',
        ],
      },
    },
    browserNoActivityTimeout: 120000,
    captureTimeout: 120000,
    restartOnFileChange: false,
    singleRun: true,
  });
