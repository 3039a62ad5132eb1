import { namesOf } from './namesOf'

/** Error codes by their number (ANSI/ASHRAE 135, 18 and 21). */
export const errorCodes = namesOf(`
  0:other 2:configuration-in-progress 3:device-busy 4:dynamic-creation-not-supported 5:file-access-denied 7:inconsistent-parameters
  8:inconsistent-selection-criterion 9:invalid-data-type 10:invalid-file-access-method 11:invalid-file-start-position
  13:invalid-parameter-data-type 14:invalid-timestamp 16:missing-required-parameter 17:no-objects-of-specified-type
  18:no-space-for-object 19:no-space-to-add-list-element 20:no-space-to-write-property 21:no-vt-sessions-available
  22:property-is-not-a-list 23:object-deletion-not-permitted 24:object-identifier-already-exists 25:operational-problem
  26:password-failure 27:read-access-denied 29:service-request-denied 30:timeout 31:unknown-object 32:unknown-property
  34:unknown-vt-class 35:unknown-vt-session 36:unsupported-object-type 37:value-out-of-range 38:vt-session-already-closed
  39:vt-session-termination-failure 40:write-access-denied 41:character-set-not-supported 42:invalid-array-index
  43:cov-subscription-failed 44:not-cov-property 45:optional-functionality-not-supported 46:invalid-configuration-data
  47:datatype-not-supported 48:duplicate-name 49:duplicate-object-id 50:property-is-not-an-array 51:abort-buffer-overflow
  52:abort-invalid-apdu-in-this-state 53:abort-preempted-by-higher-priority-task 54:abort-segmentation-not-supported 55:abort-proprietary
  56:abort-other 57:invalid-tag 58:network-down 59:reject-buffer-overflow 60:reject-inconsistent-parameters
  61:reject-invalid-parameter-data-type 62:reject-invalid-tag 63:reject-missing-required-parameter 64:reject-parameter-out-of-range
  65:reject-too-many-arguments 66:reject-undefined-enumeration 67:reject-unrecognized-service 68:reject-proprietary 69:reject-other
  70:unknown-device 71:unknown-route 72:value-not-initialized 73:invalid-event-state 74:no-alarm-configured 75:log-buffer-full
  76:logged-value-purged 77:no-property-specified 78:not-configured-for-triggered-logging 79:unknown-subscription
  80:parameter-out-of-range 81:list-element-not-found 82:busy 83:communication-disabled 84:success 85:access-denied
  86:bad-destination-address 87:bad-destination-device-id 88:bad-signature 89:bad-source-address 90:bad-timestamp 91:cannot-use-key
  92:cannot-verify-message-id 93:correct-key-revision 94:destination-device-id-required 95:duplicate-message 96:encryption-not-configured
  97:encryption-required 98:incorrect-key 99:invalid-key-data 100:key-update-in-progress 101:malformed-message 102:not-key-server
  103:security-not-configured 104:source-security-required 105:too-many-keys 106:unknown-authentication-type 107:unknown-key
  108:unknown-key-revision 109:unknown-source-message 110:not-router-to-dnet 111:router-busy 112:unknown-network-message
  113:message-too-long 114:security-error 115:addressing-error 116:write-bdt-failed 117:read-bdt-failed
  118:register-foreign-device-failed 119:read-fdt-failed 120:delete-fdt-entry-failed 121:distribute-broadcast-failed
  122:unknown-file-size 123:abort-apdu-too-long 124:abort-application-exceeded-reply-time 125:abort-out-of-resources
  126:abort-tsm-timeout 127:abort-window-size-out-of-range 128:file-full 129:inconsistent-configuration 130:inconsistent-object-type
  131:internal-error 132:not-configured 133:out-of-memory 134:value-too-long 135:abort-insufficient-security 136:abort-security-error
  137:duplicate-entry 138:invalid-value-in-this-state
`)
