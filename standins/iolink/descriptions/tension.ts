import { deviceElement } from './deviceElement'

/** The description of the sensor that feels how hard the shore cable pulls. */
export const tension = `<?xml version="1.0" encoding="UTF-8"?>
<IODevice xmlns="http://www.io-link.com/IODD/2010/10" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">
  <DocumentInfo version="V1.2" releaseDate="2026-03-02" copyright="Harrow Sensor Works"/>
  <ProfileBody>
    <DeviceIdentity vendorId="2641" vendorName="Harrow Sensor Works" deviceId="1051">
      <VendorText textId="T_VendorText"/>
      <VendorUrl textId="T_VendorUrl"/>
      <${deviceElement} textId="T_Device"/>
      <DeviceFamily textId="T_DeviceFamily"/>
      <DeviceVariantCollection>
        <DeviceVariant productId="HT-40"><Name textId="T_V1_Name"/><Description textId="T_V1_Text"/></DeviceVariant>
      </DeviceVariantCollection>
    </DeviceIdentity>
    <DeviceFunction>
      <DatatypeCollection>
        <Datatype id="D_State" xsi:type="UIntegerT" bitLength="3">
          <SingleValue value="0"><Name textId="T_S0"/></SingleValue>
          <SingleValue value="1"><Name textId="T_S1"/></SingleValue>
          <SingleValue value="2"><Name textId="T_S2"/></SingleValue>
        </Datatype>
        <Datatype id="D_PDIn" xsi:type="RecordT" bitLength="32">
          <RecordItem subindex="1" bitOffset="16">
            <SimpleDatatype xsi:type="IntegerT" bitLength="16"><ValueRange lowerValue="-2000" upperValue="20000"/></SimpleDatatype>
            <Name textId="T_Tension"/><Description textId="T_TensionText"/>
          </RecordItem>
          <RecordItem subindex="2" bitOffset="8">
            <SimpleDatatype xsi:type="IntegerT" bitLength="8"/><Name textId="T_Temperature"/>
          </RecordItem>
          <RecordItem subindex="3" bitOffset="4"><DatatypeRef datatypeId="D_State"/><Name textId="T_State"/></RecordItem>
          <RecordItem subindex="4" bitOffset="1"><SimpleDatatype xsi:type="BooleanT"/><Name textId="T_Slack"/></RecordItem>
          <RecordItem subindex="5" bitOffset="0"><SimpleDatatype xsi:type="BooleanT"/><Name textId="T_Over"/></RecordItem>
        </Datatype>
      </DatatypeCollection>
      <VariableCollection>
        <StdVariableRef id="V_VendorName"/>
        <StdVariableRef id="V_ProductName"/>
        <StdVariableRef id="V_SerialNumber"/>
        <StdVariableRef id="V_ApplicationSpecificTag"/>
        <StdVariableRef id="V_DeviceStatus"/>
        <Variable id="V_SlackLimit" index="80" accessRights="rw">
          <Datatype xsi:type="UIntegerT" bitLength="16"><ValueRange lowerValue="0" upperValue="5000"/></Datatype>
          <Name textId="T_SlackLimit"/><Description textId="T_SlackLimitText"/>
        </Variable>
        <Variable id="V_Filter" index="81" accessRights="rw">
          <Datatype xsi:type="UIntegerT" bitLength="8">
            <SingleValue value="0"><Name textId="T_F0"/></SingleValue>
            <SingleValue value="1"><Name textId="T_F1"/></SingleValue>
          </Datatype>
          <Name textId="T_Filter"/>
        </Variable>
      </VariableCollection>
      <ProcessDataCollection>
        <ProcessData id="P_In">
          <ProcessDataIn id="PDI" bitLength="32"><DatatypeRef datatypeId="D_PDIn"/><Name textId="T_PD"/></ProcessDataIn>
        </ProcessData>
      </ProcessDataCollection>
      <EventCollection>
        <Event code="36001" type="Warning"><Name textId="T_E1"/><Description textId="T_E1Text"/></Event>
      </EventCollection>
      <UserInterface>
        <ProcessDataRefCollection>
          <ProcessDataRef processDataId="PDI">
            <ProcessDataRecordItemInfo subindex="1" gradient="0.01" offset="0" unitCode="1122" displayFormat="Dec.2"/>
            <ProcessDataRecordItemInfo subindex="2" unitCode="1001"/>
          </ProcessDataRef>
        </ProcessDataRefCollection>
        <MenuCollection>
          <Menu id="M_Set">
            <VariableRef variableId="V_SlackLimit" gradient="0.01" offset="0" unitCode="1122" displayFormat="Dec.2"/>
          </Menu>
        </MenuCollection>
      </UserInterface>
    </DeviceFunction>
  </ProfileBody>
  <ExternalTextCollection>
    <PrimaryLanguage xml:lang="en">
      <Text id="T_VendorText" value="Sensors for harbours"/>
      <Text id="T_VendorUrl" value="https://sensors.example"/>
      <Text id="T_Device" value="Cable tension sensor"/>
      <Text id="T_DeviceFamily" value="Force"/>
      <Text id="T_V1_Name" value="HT-40"/>
      <Text id="T_V1_Text" value="Up to 200 kN"/>
      <Text id="T_PD" value="Process data"/>
      <Text id="T_Tension" value="Tension"/>
      <Text id="T_TensionText" value="Pull on the shore cable"/>
      <Text id="T_Temperature" value="Temperature"/>
      <Text id="T_State" value="State"/>
      <Text id="T_S0" value="measures"/>
      <Text id="T_S1" value="warms up"/>
      <Text id="T_S2" value="fails"/>
      <Text id="T_Slack" value="Slack"/>
      <Text id="T_Over" value="Overload"/>
      <Text id="T_SlackLimit" value="Slack limit"/>
      <Text id="T_SlackLimitText" value="Below this pull the cable counts as slack"/>
      <Text id="T_Filter" value="Filter"/>
      <Text id="T_F0" value="off"/>
      <Text id="T_F1" value="smooth"/>
      <Text id="T_E1" value="Overload"/>
      <Text id="T_E1Text" value="The pull went beyond 180 kN"/>
    </PrimaryLanguage>
    <Language xml:lang="de">
      <Text id="T_Device" value="Seilzugsensor"/>
      <Text id="T_Tension" value="Zugkraft"/>
      <Text id="T_Slack" value="Schlaff"/>
    </Language>
  </ExternalTextCollection>
</IODevice>
`
