/**
 * Every status code of the standard (OPC 10000-6, A.2): the upper sixteen bits in hexadecimal, and the name.
 */
const table = `
0000 Good  002d GoodSubscriptionTransferred  002e GoodCompletesAsynchronously  002f GoodOverload  0030 GoodClamped
0096 GoodLocalOverride  00a2 GoodEntryInserted  00a3 GoodEntryReplaced  00a5 GoodNoData  00a6 GoodMoreData
00a7 GoodCommunicationEvent  00a8 GoodShutdownEvent  00a9 GoodCallAgain  00aa GoodNonCriticalTimeout
00ba GoodResultsMayBeIncomplete  00d9 GoodDataIgnored  00dc GoodEdited  00dd GoodPostActionFailed
00df GoodRetransmissionQueueNotSupported  00e0 GoodDependentValueChanged  00eb GoodSubNormal
00ef GoodPasswordChangeRequired  0116 GoodEdited_DependentValueChanged  0117 GoodEdited_DominantValueChanged
0118 GoodEdited_DominantValueChanged_DependentValueChanged  0401 GoodCascadeInitializationAcknowledged
0402 GoodCascadeInitializationRequest  0403 GoodCascadeNotInvited  0404 GoodCascadeNotSelected
0407 GoodFaultStateActive  0408 GoodInitiateFaultState  0409 GoodCascade  4000 Uncertain
406c UncertainReferenceOutOfServer  408f UncertainNoCommunicationLastUsableValue  4090 UncertainLastUsableValue
4091 UncertainSubstituteValue  4092 UncertainInitialValue  4093 UncertainSensorNotAccurate
4094 UncertainEngineeringUnitsExceeded  4095 UncertainSubNormal  40a4 UncertainDataSubNormal
40bc UncertainReferenceNotDeleted  40c0 UncertainNotAllNodesAvailable  40de UncertainDominantValueChanged
40e2 UncertainDependentValueChanged  40f2 UncertainOverRange  40f3 UncertainUnderRange  4208 UncertainTransducerInManual
4209 UncertainSimulatedValue  420a UncertainSensorCalibration  420f UncertainConfigurationError  8000 Bad
8001 BadUnexpectedError  8002 BadInternalError  8003 BadOutOfMemory  8004 BadResourceUnavailable
8005 BadCommunicationError  8006 BadEncodingError  8007 BadDecodingError  8008 BadEncodingLimitsExceeded
8009 BadUnknownResponse  800a BadTimeout  800b BadServiceUnsupported  800c BadShutdown  800d BadServerNotConnected
800e BadServerHalted  800f BadNothingToDo  8010 BadTooManyOperations  8011 BadDataTypeIdUnknown
8012 BadCertificateInvalid  8013 BadSecurityChecksFailed  8014 BadCertificateTimeInvalid
8015 BadCertificateIssuerTimeInvalid  8016 BadCertificateHostNameInvalid  8017 BadCertificateUriInvalid
8018 BadCertificateUseNotAllowed  8019 BadCertificateIssuerUseNotAllowed  801a BadCertificateUntrusted
801b BadCertificateRevocationUnknown  801c BadCertificateIssuerRevocationUnknown  801d BadCertificateRevoked
801e BadCertificateIssuerRevoked  801f BadUserAccessDenied  8020 BadIdentityTokenInvalid  8021 BadIdentityTokenRejected
8022 BadSecureChannelIdInvalid  8023 BadInvalidTimestamp  8024 BadNonceInvalid  8025 BadSessionIdInvalid
8026 BadSessionClosed  8027 BadSessionNotActivated  8028 BadSubscriptionIdInvalid  802a BadRequestHeaderInvalid
802b BadTimestampsToReturnInvalid  802c BadRequestCancelledByClient  8031 BadNoCommunication
8032 BadWaitingForInitialData  8033 BadNodeIdInvalid  8034 BadNodeIdUnknown  8035 BadAttributeIdInvalid
8036 BadIndexRangeInvalid  8037 BadIndexRangeNoData  8038 BadDataEncodingInvalid  8039 BadDataEncodingUnsupported
803a BadNotReadable  803b BadNotWritable  803c BadOutOfRange  803d BadNotSupported  803e BadNotFound
803f BadObjectDeleted  8040 BadNotImplemented  8041 BadMonitoringModeInvalid  8042 BadMonitoredItemIdInvalid
8043 BadMonitoredItemFilterInvalid  8044 BadMonitoredItemFilterUnsupported  8045 BadFilterNotAllowed
8046 BadStructureMissing  8047 BadEventFilterInvalid  8048 BadContentFilterInvalid  8049 BadFilterOperandInvalid
804a BadContinuationPointInvalid  804b BadNoContinuationPoints  804c BadReferenceTypeIdInvalid
804d BadBrowseDirectionInvalid  804e BadNodeNotInView  804f BadServerUriInvalid  8050 BadServerNameMissing
8051 BadDiscoveryUrlMissing  8052 BadSemaphoreFileMissing  8053 BadRequestTypeInvalid  8054 BadSecurityModeRejected
8055 BadSecurityPolicyRejected  8056 BadTooManySessions  8057 BadUserSignatureInvalid
8058 BadApplicationSignatureInvalid  8059 BadNoValidCertificates  805a BadRequestCancelledByRequest
805b BadParentNodeIdInvalid  805c BadReferenceNotAllowed  805d BadNodeIdRejected  805e BadNodeIdExists
805f BadNodeClassInvalid  8060 BadBrowseNameInvalid  8061 BadBrowseNameDuplicated  8062 BadNodeAttributesInvalid
8063 BadTypeDefinitionInvalid  8064 BadSourceNodeIdInvalid  8065 BadTargetNodeIdInvalid
8066 BadDuplicateReferenceNotAllowed  8067 BadInvalidSelfReference  8068 BadReferenceLocalOnly  8069 BadNoDeleteRights
806a BadServerIndexInvalid  806b BadViewIdUnknown  806d BadTooManyMatches  806e BadQueryTooComplex  806f BadNoMatch
8070 BadMaxAgeInvalid  8071 BadHistoryOperationInvalid  8072 BadHistoryOperationUnsupported  8073 BadWriteNotSupported
8074 BadTypeMismatch  8075 BadMethodInvalid  8076 BadArgumentsMissing  8077 BadTooManySubscriptions
8078 BadTooManyPublishRequests  8079 BadNoSubscription  807a BadSequenceNumberUnknown  807b BadMessageNotAvailable
807c BadInsufficientClientProfile  807d BadTcpServerTooBusy  807e BadTcpMessageTypeInvalid
807f BadTcpSecureChannelUnknown  8080 BadTcpMessageTooLarge  8081 BadTcpNotEnoughResources  8082 BadTcpInternalError
8083 BadTcpEndpointUrlInvalid  8084 BadRequestInterrupted  8085 BadRequestTimeout  8086 BadSecureChannelClosed
8087 BadSecureChannelTokenUnknown  8088 BadSequenceNumberInvalid  8089 BadConfigurationError  808a BadNotConnected
808b BadDeviceFailure  808c BadSensorFailure  808d BadOutOfService  808e BadDeadbandFilterInvalid
8097 BadRefreshInProgress  8098 BadConditionAlreadyDisabled  8099 BadConditionDisabled  809a BadEventIdUnknown
809b BadNoData  809d BadDataLost  809e BadDataUnavailable  809f BadEntryExists  80a0 BadNoEntryExists
80a1 BadTimestampNotSupported  80ab BadInvalidArgument  80ac BadConnectionRejected  80ad BadDisconnect
80ae BadConnectionClosed  80af BadInvalidState  80b0 BadEndOfStream  80b1 BadNoDataAvailable  80b2 BadWaitingForResponse
80b3 BadOperationAbandoned  80b4 BadExpectedStreamToBlock  80b5 BadWouldBlock  80b6 BadSyntaxError
80b7 BadMaxConnectionsReached  80b8 BadRequestTooLarge  80b9 BadResponseTooLarge  80bb BadEventNotAcknowledgeable
80bd BadInvalidTimestampArgument  80be BadProtocolVersionUnsupported  80bf BadStateNotActive
80c1 BadFilterOperatorInvalid  80c2 BadFilterOperatorUnsupported  80c3 BadFilterOperandCountMismatch
80c4 BadFilterElementInvalid  80c5 BadFilterLiteralInvalid  80c6 BadIdentityChangeNotSupported
80c8 BadNotTypeDefinition  80c9 BadViewTimestampInvalid  80ca BadViewParameterMismatch  80cb BadViewVersionInvalid
80cc BadConditionAlreadyEnabled  80cd BadDialogNotActive  80ce BadDialogResponseInvalid
80cf BadConditionBranchAlreadyAcked  80d0 BadConditionBranchAlreadyConfirmed  80d1 BadConditionAlreadyShelved
80d2 BadConditionNotShelved  80d3 BadShelvingTimeOutOfRange  80d4 BadAggregateListMismatch
80d5 BadAggregateNotSupported  80d6 BadAggregateInvalidInputs  80d7 BadBoundNotFound  80d8 BadBoundNotSupported
80da BadAggregateConfigurationRejected  80db BadTooManyMonitoredItems  80e1 BadDominantValueChanged
80e3 BadDependentValueChanged  80e4 BadRequestNotAllowed  80e5 BadTooManyArguments  80e6 BadSecurityModeInsufficient
80e7 BadDataSetIdInvalid  80e8 BadTransactionPending  80e9 BadLocked  80ea BadIndexRangeDataMismatch
80ec BadRequiresLock  80ed BadLocaleNotSupported  80ee BadServerTooBusy  80f0 BadNoValue  80f1 BadTransactionFailed
810d BadCertificateChainIncomplete  810e BadLicenseExpired  810f BadLicenseLimitsExceeded  8110 BadLicenseNotAvailable
8111 BadNotExecutable  8112 BadNumericOverflow  8113 BadRequestNotComplete  8114 BadCertificatePolicyCheckFailed
8115 BadAlreadyExists  8119 BadEdited_OutOfRange  811a BadInitialValue_OutOfRange
811b BadOutOfRange_DominantValueChanged  811c BadEdited_OutOfRange_DominantValueChanged
811d BadOutOfRange_DominantValueChanged_DependentValueChanged
811e BadEdited_OutOfRange_DominantValueChanged_DependentValueChanged  811f BadTicketRequired  8120 BadTicketInvalid
`

export const statusNames: ReadonlyMap<number, string> = new Map(
  [...table.matchAll(/([0-9a-f]{4}) (\w+)/g)].map(([, code, name]) => [(parseInt(code!, 16) << 16) >>> 0, name!]),
)
