/** Ends a process that was started with a channel to its parent when the parent is gone, however it went. */
process.on('disconnect', () => process.kill(process.pid, 'SIGTERM'));
