package org.holtra.core.reading.sparkplug;

import java.util.Arrays;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;

/** The types of metrics, of their properties and of what stands in data sets (Sparkplug 3.0, section 6.4.16). */
public enum MetricType {
    INT8(1, "Int8"),
    INT16(2, "Int16"),
    INT32(3, "Int32"),
    INT64(4, "Int64"),
    UINT8(5, "UInt8"),
    UINT16(6, "UInt16"),
    UINT32(7, "UInt32"),
    UINT64(8, "UInt64"),
    FLOAT(9, "Float"),
    DOUBLE(10, "Double"),
    BOOLEAN(11, "Boolean"),
    STRING(12, "String"),
    DATE_TIME(13, "DateTime"),
    TEXT(14, "Text"),
    UUID(15, "UUID"),
    DATA_SET(16, "DataSet"),
    BYTES(17, "Bytes"),
    FILE(18, "File"),
    TEMPLATE(19, "Template"),
    PROPERTY_SET(20, "PropertySet"),
    PROPERTY_SET_LIST(21, "PropertySetList"),
    INT8_ARRAY(22, "Int8Array"),
    INT16_ARRAY(23, "Int16Array"),
    INT32_ARRAY(24, "Int32Array"),
    INT64_ARRAY(25, "Int64Array"),
    UINT8_ARRAY(26, "UInt8Array"),
    UINT16_ARRAY(27, "UInt16Array"),
    UINT32_ARRAY(28, "UInt32Array"),
    UINT64_ARRAY(29, "UInt64Array"),
    FLOAT_ARRAY(30, "FloatArray"),
    DOUBLE_ARRAY(31, "DoubleArray"),
    BOOLEAN_ARRAY(32, "BooleanArray"),
    STRING_ARRAY(33, "StringArray"),
    DATE_TIME_ARRAY(34, "DateTimeArray");

    private static final Map<Integer, MetricType> BY_CODE =
            Arrays.stream(values()).collect(Collectors.toMap(MetricType::code, Function.identity()));

    private final int code;
    private final String word;

    MetricType(int code, String word) {
        this.code = code;
        this.word = word;
    }

    public int code() {
        return code;
    }

    /** As the standard writes it. */
    public String word() {
        return word;
    }

    /** Empty for a code that the standard does not know. */
    public static Optional<MetricType> of(int code) {
        return Optional.ofNullable(BY_CODE.get(code));
    }
}
