import { userInfo } from 'node:os'
import { join } from 'node:path'
import { project } from '../paths.mjs'

/** Prints a systemd unit; nothing is installed behind anybody's back. */
export const service = () => console.log(unitFor('keen-conduit', 'Keen Conduit', 'run'))

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
User=${userInfo().username}
WorkingDirectory=${project}
ExecStart=${join(project, 'conduit')} ${command}
Environment=PATH=${process.env.PATH}
Restart=always
RestartSec=5
TimeoutStartSec=900
TimeoutStopSec=60
WatchdogSec=90
LimitNOFILE=65536

[Install]
WantedBy=multi-user.target`
