package org.holtra.core.reading.content;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class FormatTest {

    @ParameterizedTest
    @CsvSource({
        "JSON,,true",
        "JSON,application/json; charset=utf-8,true",
        "JSON,application/cloudevents+json,true",
        "JSON,text/plain,true",
        "JSON,application/x-www-form-urlencoded,false",
        "JSON,image/png,false",
        "CBOR,application/cbor,true",
        "CBOR,text/plain,false",
        "FORM,application/x-www-form-urlencoded,true",
        "FORM,application/json,false",
        "CSV,TEXT/CSV,true",
        "XML,application/atom+xml,true",
        "BYTES,application/octet-stream,true",
        "BYTES,application/json,false",
    })
    void anInletThatNamesAFormatTakesItsMediaTypes(Format format, String contentType, boolean takes) {
        assertThat(format.takes(contentType)).isEqualTo(takes);
    }
}
