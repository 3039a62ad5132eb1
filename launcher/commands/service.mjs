import { userInfo } from 'node:os'
import { join } from 'node:path'
import { project } from '../paths.mjs'

/** Prints a systemd unit; nothing is installed behind anybody's back. */
export const service = () => {
  console.log(`# Save as /etc/systemd/system/keen-conduit.service, then: systemctl enable --now keen-conduit
[Unit]
Description=Keen Conduit
After=network-online.target
Wants=network-online.target

[Service]
Type=simple
User=${userInfo().username}
WorkingDirectory=${project}
ExecStart=${join(project, 'conduit')} run
Environment=PATH=${process.env.PATH}
Restart=always
RestartSec=5
TimeoutStopSec=60

[Install]
WantedBy=multi-user.target`)
}
