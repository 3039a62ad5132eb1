import { namesOf } from './namesOf'

/** Units by their number (ANSI/ASHRAE 135, 21, BACnetEngineeringUnits), as signs where the trade has one. */
const signs = namesOf(`
  0:m² 1:ft² 2:mA 3:A 4:Ω 5:V 6:kV 7:MV 8:VA 9:kVA 10:MVA 11:var 12:kvar 13:Mvar 14:°el 16:J 17:kJ 18:Wh 19:kWh 20:BTU 21:thm 22:ton·h
  23:J/kg 24:BTU/lb 25:cph 26:cpm 27:Hz 28:g/kg 29:%RH 30:mm 31:m 32:in 33:ft 34:W/ft² 35:W/m² 36:lm 37:lx 38:fc 39:kg 40:lb 41:t 42:kg/s
  43:kg/min 44:kg/h 45:lb/min 46:lb/h 47:W 48:kW 49:MW 50:BTU/h 51:hp 52:TR 53:Pa 54:kPa 55:bar 56:psi 57:cmH₂O 58:inH₂O 59:mmHg 60:cmHg
  61:inHg 62:°C 63:K 64:°F 65:°C·d 66:°F·d 67:a 68:mo 69:wk 70:d 71:h 72:min 73:s 74:m/s 75:km/h 76:ft/s 77:ft/min 78:mph 79:ft³ 80:m³
  81:gal_(imp) 82:L 83:gal 84:ft³/min 85:m³/s 86:gal/min_(imp) 87:L/s 88:L/min 89:gal/min 90:° 91:°C/h 92:°C/min 93:°F/h 94:°F/min 96:ppm
  97:ppb 98:% 99:%/s 100:1/min 101:1/s 102:psi/°F 103:rad 104:rpm 115:in² 116:cm² 117:BTU/lb 118:cm 119:lb/s 120:Δ°F 121:ΔK 122:kΩ 123:MΩ
  124:mV 125:kJ/kg 126:MJ 127:J/K 128:J/(kg·K) 129:kHz 130:MHz 131:1/h 132:mW 133:hPa 134:mbar 135:m³/h 136:L/h 137:kWh/m² 138:kWh/ft²
  139:MJ/m² 140:MJ/ft² 141:W/(m²·K) 142:ft³/s 143:%/ft 144:%/m 145:mΩ 146:MWh 147:kBTU 148:MMBTU 149:kJ/kg 150:MJ/kg 151:kJ/K 152:MJ/K
  153:N 154:g/s 155:g/min 156:t/h 157:kBTU/h 158:cs 159:ms 160:N·m 161:mm/s 162:mm/min 163:m/min 164:m/h 165:m³/min 166:m/s² 167:A/m
  168:A/m² 169:A·m² 170:F 171:H 172:Ω·m 173:S 174:S/m 175:T 176:V/K 177:V/m 178:Wb 179:cd 180:cd/m² 181:K/h 182:K/min 183:J·s 184:rad/s
  185:m²/N 186:kg/m³ 187:N·s 188:N/m 189:W/(m·K) 190:µS 191:ft³/h 192:gal/h 193:km 194:µm 195:g 196:mg 197:mL 198:mL/s 199:dB 200:dBmV
  201:dBV 202:mS 203:varh 204:kvarh 205:Mvarh 206:mmH₂O 207:‰ 208:g/g 209:kg/kg 210:g/kg 211:mg/g 212:mg/kg 213:g/mL 214:g/L 215:mg/L
  216:µg/L 217:g/m³ 218:mg/m³ 219:µg/m³ 220:ng/m³ 221:g/cm³ 222:Bq 223:kBq 224:MBq 225:Gy 226:mGy 227:µGy 228:Sv 229:mSv 230:µSv
  231:µSv/h 232:dB(A) 233:NTU 234:pH 235:g/m² 236:min/K
`)
const words = namesOf(`
  105:currency1 106:currency2 107:currency3 108:currency4 109:currency5 110:currency6 111:currency7 112:currency8 113:currency9
  114:currency10 237:ohm-meter-squared-per-meter 238:ampere-seconds 239:volt-ampere-hours 240:kilovolt-ampere-hours
  241:megavolt-ampere-hours 242:volt-ampere-hours-reactive 243:kilovolt-ampere-hours-reactive 244:megavolt-ampere-hours-reactive
  245:volt-square-hours 246:ampere-square-hours 247:joule-per-hours 248:cubic-feet-per-day 249:cubic-meters-per-day
  250:watt-hours-per-cubic-meter 251:joules-per-cubic-meter 252:mole-percent 253:pascal-seconds
  254:million-standard-cubic-feet-per-minute 47808:standard-cubic-feet-per-day 47809:million-standard-cubic-feet-per-day
  47810:thousand-cubic-feet-per-day 47811:thousand-standard-cubic-feet-per-day 47812:pounds-mass-per-day 47814:millirems
  47815:millirems-per-hour
`)

/** The number that says that there is none. */
const none = new Set([15, 95])

/** As in `°C`; empty: it has none. */
export const unitText = (number: number): string => {
  if (none.has(number)) return ''
  return (signs.get(number) ?? words.get(number)?.replaceAll('-', ' ') ?? `unit ${number}`).replaceAll('_', ' ')
}
