/** Units by the codes of device descriptions, as signs of the trade. */
const signs = new Map(
  `1000:K 1001:°C 1002:°F 1004:rad 1005:° 1008:gon 1009:rev 1010:m 1011:km 1012:cm 1013:mm 1014:µm 1015:nm 1018:ft 1019:in 1020:yd
  1023:m² 1024:km² 1025:cm² 1027:mm² 1034:m³ 1035:dm³ 1036:cm³ 1037:mm³ 1038:L 1039:cL 1040:mL 1041:hL 1054:s 1056:ms 1057:µs 1058:min
  1059:h 1060:d 1061:m/s 1062:mm/s 1063:m/h 1064:km/h 1076:m/s² 1077:Hz 1079:GHz 1080:MHz 1081:kHz 1082:1/s 1083:1/min 1084:rev/s
  1085:rpm 1086:rad/s 1088:kg 1089:g 1090:mg 1092:t 1097:kg/m³ 1098:Mg/m³ 1099:kg/dm³ 1100:g/cm³ 1103:kg/L 1120:N 1121:MN 1122:kN
  1123:mN 1126:N·m 1128:kN·m 1130:Pa 1131:GPa 1132:MPa 1133:kPa 1134:mPa 1136:hPa 1137:bar 1138:mbar 1139:Torr 1140:atm 1141:psi
  1170:J 1179:kWh 1186:W 1189:MW 1190:kW 1191:mW 1209:A 1210:kA 1211:mA 1212:µA 1240:V 1242:kV 1243:mV 1244:µV 1281:Ω 1283:MΩ 1284:kΩ
  1322:kg/s 1324:kg/h 1342:% 1347:m³/s 1348:m³/min 1349:m³/h 1351:L/s 1352:L/min 1353:L/h 1382:dB 1422:pH 1423:ppm 1424:ppb`
    .trim()
    .split(/\s+/)
    .map((one) => [Number(one.slice(0, 4)), one.slice(5)] as const),
)

/** The codes that say that there is none. */
const none = new Set([1995, 1997, 1998])

export const unitText = (code: number): string => (none.has(code) ? '' : (signs.get(code) ?? `unit ${code}`))
