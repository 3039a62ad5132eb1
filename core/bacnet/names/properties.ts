import { namesOf } from './namesOf'

/** The properties of the standard by their number (ANSI/ASHRAE 135, 21, BACnetPropertyIdentifier). */
const properties = namesOf(`
  0:acked-transitions 1:ack-required 2:action 3:action-text 4:active-text 5:active-vt-sessions 6:alarm-value 7:alarm-values 8:all
  9:all-writes-successful 10:apdu-segment-timeout 11:apdu-timeout 12:application-software-version 13:archive 14:bias
  15:change-of-state-count 16:change-of-state-time 17:notification-class 19:controlled-variable-reference 20:controlled-variable-units
  21:controlled-variable-value 22:cov-increment 23:date-list 24:daylight-savings-status 25:deadband 26:derivative-constant
  27:derivative-constant-units 28:description 29:description-of-halt 30:device-address-binding 31:device-type 32:effective-period
  33:elapsed-active-time 34:error-limit 35:event-enable 36:event-state 37:event-type 38:exception-schedule 39:fault-values
  40:feedback-value 41:file-access-method 42:file-size 43:file-type 44:firmware-revision 45:high-limit 46:inactive-text 47:in-process
  48:instance-of 49:integral-constant 50:integral-constant-units 52:limit-enable 53:list-of-group-members
  54:list-of-object-property-references 56:local-date 57:local-time 58:location 59:low-limit 60:manipulated-variable-reference
  61:maximum-output 62:max-apdu-length-accepted 63:max-info-frames 64:max-master 65:max-pres-value 66:minimum-off-time 67:minimum-on-time
  68:minimum-output 69:min-pres-value 70:model-name 71:modification-date 72:notify-type 73:number-of-apdu-retries 74:number-of-states
  75:object-identifier 76:object-list 77:object-name 78:object-property-reference 79:object-type 80:optional 81:out-of-service
  82:output-units 83:event-parameters 84:polarity 85:present-value 86:priority 87:priority-array 88:priority-for-writing
  89:process-identifier 90:program-change 91:program-location 92:program-state 93:proportional-constant 94:proportional-constant-units
  96:protocol-object-types-supported 97:protocol-services-supported 98:protocol-version 99:read-only 100:reason-for-halt
  102:recipient-list 103:reliability 104:relinquish-default 105:required 106:resolution 107:segmentation-supported 108:setpoint
  109:setpoint-reference 110:state-text 111:status-flags 112:system-status 113:time-delay 114:time-of-active-time-reset
  115:time-of-state-count-reset 116:time-synchronization-recipients 117:units 118:update-interval 119:utc-offset 120:vendor-identifier
  121:vendor-name 122:vt-classes-supported 123:weekly-schedule 124:attempted-samples 125:average-value 126:buffer-size
  127:client-cov-increment 128:cov-resubscription-interval 130:event-time-stamps 131:log-buffer 132:log-device-object-property 133:enable
  134:log-interval 135:maximum-value 136:minimum-value 137:notification-threshold 139:protocol-revision 140:records-since-notification
  141:record-count 142:start-time 143:stop-time 144:stop-when-full 145:total-record-count 146:valid-samples 147:window-interval
  148:window-samples 149:maximum-value-timestamp 150:minimum-value-timestamp 151:variance-value 152:active-cov-subscriptions
  153:backup-failure-timeout 154:configuration-files 155:database-revision 156:direct-reading 157:last-restore-time
  158:maintenance-required 159:member-of 160:mode 161:operation-expected 162:setting 163:silenced 164:tracking-value 165:zone-members
  166:life-safety-alarm-values 167:max-segments-accepted 168:profile-name 169:auto-slave-discovery 170:manual-slave-address-binding
  171:slave-address-binding 172:slave-proxy-enable 173:last-notify-record 174:schedule-default 175:accepted-modes 176:adjust-value
  177:count 178:count-before-change 179:count-change-time 180:cov-period 181:input-reference 182:limit-monitoring-interval
  183:logging-object 184:logging-record 185:prescale 186:pulse-rate 187:scale 188:scale-factor 189:update-time 190:value-before-change
  191:value-set 192:value-change-time 193:align-intervals 195:interval-offset 196:last-restart-reason 197:logging-type
  202:restart-notification-recipients 203:time-of-device-restart 204:time-synchronization-interval 205:trigger
  206:utc-time-synchronization-recipients 207:node-subtype 208:node-type 209:structured-object-list 210:subordinate-annotations
  211:subordinate-list 212:actual-shed-level 213:duty-window 214:expected-shed-level 215:full-duty-baseline 218:requested-shed-level
  219:shed-duration 220:shed-level-descriptions 221:shed-levels 222:state-description 226:door-alarm-state 227:door-extended-pulse-time
  228:door-members 229:door-open-too-long-time 230:door-pulse-time 231:door-status 232:door-unlock-delay-time 233:lock-status
  234:masked-alarm-values 235:secured-status 244:absentee-limit 245:access-alarm-events 246:access-doors 247:access-event
  248:access-event-authentication-factor 249:access-event-credential 250:access-event-time 251:access-transaction-events
  252:accompaniment 253:accompaniment-time 254:activation-time 255:active-authentication-policy 256:assigned-access-rights
  257:authentication-factors 258:authentication-policy-list 259:authentication-policy-names 260:authentication-status
  261:authorization-mode 262:belongs-to 263:credential-disable 264:credential-status 265:credentials 266:credentials-in-zone
  267:days-remaining 268:entry-points 269:exit-points 270:expiration-time 271:extended-time-enable 272:failed-attempt-events
  273:failed-attempts 274:failed-attempts-time 275:last-access-event 276:last-access-point 277:last-credential-added
  278:last-credential-added-time 279:last-credential-removed 280:last-credential-removed-time 281:last-use-time 282:lockout
  283:lockout-relinquish-time 285:max-failed-attempts 286:members 287:muster-point 288:negative-access-rules
  289:number-of-authentication-policies 290:occupancy-count 291:occupancy-count-adjust 292:occupancy-count-enable
  294:occupancy-lower-limit 295:occupancy-lower-limit-enforced 296:occupancy-state 297:occupancy-upper-limit
  298:occupancy-upper-limit-enforced 300:passback-mode 301:passback-timeout 302:positive-access-rules 303:reason-for-disable
  304:supported-formats 305:supported-format-classes 306:threat-authority 307:threat-level 308:trace-flag
  309:transaction-notification-class 310:user-external-identifier 311:user-information-reference 317:user-name 318:user-type
  319:uses-remaining 320:zone-from 321:zone-to 322:access-event-tag 323:global-identifier 326:verification-time
  328:distribution-key-revision 329:do-not-hide 330:key-sets 331:last-key-server 332:network-access-security-policies
  333:packet-reorder-time 334:security-pdu-timeout 335:security-time-window 336:supported-security-algorithms 337:update-key-set-timeout
  338:backup-and-restore-state 339:backup-preparation-time 340:restore-completion-time 341:restore-preparation-time 342:bit-mask
  343:bit-text 344:is-utc 345:group-members 346:group-member-names 347:member-status-flags 348:requested-update-interval 349:covu-period
  350:covu-recipients 351:event-message-texts 352:event-message-texts-config 353:event-detection-enable 354:event-algorithm-inhibit
  355:event-algorithm-inhibit-ref 356:time-delay-normal 357:reliability-evaluation-inhibit 358:fault-parameters 359:fault-type
  360:local-forwarding-only 361:process-identifier-filter 362:subscribed-recipients 363:port-filter 364:authorization-exemptions
  365:allow-group-delay-inhibit 366:channel-number 367:control-groups 368:execution-delay 369:last-priority 370:write-status
  371:property-list 372:serial-number 373:blink-warn-enable 374:default-fade-time 375:default-ramp-rate 376:default-step-increment
  377:egress-time 378:in-progress 379:instantaneous-power 380:lighting-command 381:lighting-command-default-priority 382:max-actual-value
  383:min-actual-value 384:power 385:transition 386:egress-active 387:interface-value 388:fault-high-limit 389:fault-low-limit
  390:low-diff-limit 391:strike-count 392:time-of-strike-count-reset 393:default-timeout 394:initial-timeout 395:last-state-change
  396:state-change-values 397:timer-running 398:timer-state 399:apdu-length 400:ip-address 401:ip-default-gateway 402:ip-dhcp-enable
  403:ip-dhcp-lease-time 404:ip-dhcp-lease-time-remaining 405:ip-dhcp-server 406:ip-dns-server 407:bacnet-ip-global-address
  408:bacnet-ip-mode 409:bacnet-ip-multicast-address 410:bacnet-ip-nat-traversal 411:ip-subnet-mask 412:bacnet-ip-udp-port
  413:bbmd-accept-fd-registrations 414:bbmd-broadcast-distribution-table 415:bbmd-foreign-device-table 416:changes-pending 417:command
  418:fd-bbmd-address 419:fd-subscription-lifetime 420:link-speed 421:link-speeds 422:link-speed-autonegotiate 423:mac-address
  424:network-interface-name 425:network-number 426:network-number-quality 427:network-type 428:routing-table
  429:virtual-mac-address-table 430:command-time-array 431:current-command-priority 432:last-command-time 433:value-source
  434:value-source-array 435:bacnet-ipv6-mode 436:ipv6-address 437:ipv6-prefix-length 438:bacnet-ipv6-udp-port 439:ipv6-default-gateway
  440:bacnet-ipv6-multicast-address 441:ipv6-dns-server 442:ipv6-auto-addressing-enable 443:ipv6-dhcp-lease-time
  444:ipv6-dhcp-lease-time-remaining 445:ipv6-dhcp-server 446:ipv6-zone-index 447:assigned-landing-calls 448:car-assigned-direction
  449:car-door-command 450:car-door-status 451:car-door-text 452:car-door-zone 453:car-drive-status 454:car-load 455:car-load-units
  456:car-mode 457:car-moving-direction 458:car-position 459:elevator-group 460:energy-meter 461:energy-meter-ref 462:escalator-mode
  463:fault-signals 464:floor-text 465:group-id 467:group-mode 468:higher-deck 469:installation-id 470:landing-calls
  471:landing-call-control 472:landing-door-status 473:lower-deck 474:machine-room-id 475:making-car-call 476:next-stopping-floor
  477:operation-direction 478:passenger-alarm 479:power-mode 480:registered-car-call 481:active-cov-multiple-subscriptions
  482:protocol-level 483:reference-port 484:deployed-profile-location 485:profile-location 486:tags 487:subordinate-node-types
  488:subordinate-tags 489:subordinate-relationships 490:default-subordinate-relationship 491:represents
`)

const numbers = new Map([...properties].map(([number, name]) => [name, number]))

/** As in `present-value`; a number where the standard has no name. */
export const propertyName = (number: number): string => properties.get(number) ?? String(number)
export const propertyNumber = (name: string): number | null => numbers.get(name) ?? null
export const propertyNames: readonly string[] = [...properties.values()]
