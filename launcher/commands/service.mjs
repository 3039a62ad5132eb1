import { userInfo } from 'node:os'
import { join, resolve } from 'node:path'
import { project } from '../paths.mjs'

/** Prints systemd units; nothing is installed behind anybody's back. */
export const service = () => {
  const at = process.argv.indexOf('--backup')
  console.log(at < 0 ? unitFor('keen-conduit', 'Keen Conduit', 'run') : backupUnits(process.argv[at + 1]))
}

/**
 * A systemd unit that starts with the machine, also without a network, and is started anew where its launcher gives no sign of life.
 * @param {string} name @param {string} description @param {string} command of ./conduit
 */
export const unitFor = (name, description, command) => `# Save as /etc/systemd/system/${name}.service, then: systemctl enable --now ${name}
[Unit]
Description=${description}
After=network.target
StartLimitIntervalSec=0

[Service]
Type=notify
NotifyAccess=all
${common(command)}
Restart=always
RestartSec=5
TimeoutStartSec=900
TimeoutStopSec=60
WatchdogSec=90
LimitNOFILE=65536

[Install]
WantedBy=multi-user.target`

/** @param {string} command */
const common = (command) => `User=${userInfo().username}
WorkingDirectory=${project}
ExecStart=${join(project, 'conduit')} ${command}
Environment=PATH=${process.env.PATH}`

/** A backup every night, at a moment of its own for each machine; one that was missed is made at the next start. @param {string | undefined} folder */
const backupUnits = (folder) => {
  if (!folder || folder.startsWith('--')) throw new Error('./conduit service --backup FOLDER')
  const command = `backup --into ${resolve(folder)} --keep 14 --passphrase-file /etc/keen-conduit/backup-passphrase`
  return `# Save as /etc/systemd/system/keen-conduit-backup.service; the passphrase, readable by its user only, in /etc/keen-conduit/backup-passphrase
[Unit]
Description=Keen Conduit, backup

[Service]
Type=oneshot
${common(command)}

# Save as /etc/systemd/system/keen-conduit-backup.timer, then: systemctl enable --now keen-conduit-backup.timer
[Unit]
Description=Keen Conduit, backup every night

[Timer]
OnCalendar=*-*-* 02:00
RandomizedDelaySec=1h
Persistent=true

[Install]
WantedBy=timers.target`
}
