package org.holtra.core.reading.content;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.InstanceOfAssertFactories.LIST;
import static org.assertj.core.api.InstanceOfAssertFactories.MAP;

import org.junit.jupiter.api.Test;
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

    @Test
    void aSingleRowOfCsvIsReadByTheNamesOfItsColumns() throws UnreadableContent {
        Object one = Format.CSV.parse("id,t,lines\ncs-1,2.5,7\n".getBytes());
        Object two = Format.CSV.parse("id,t\ncs-1,2.5\ncs-2,3\n".getBytes());

        assertThat(one).asInstanceOf(MAP).containsEntry("id", "cs-1").containsEntry("t", 2.5);
        assertThat(one)
                .asInstanceOf(MAP)
                .extractingByKey("lines")
                .asInstanceOf(LIST)
                .hasSize(2);
        assertThat(two).asInstanceOf(MAP).containsOnlyKeys("lines", "rows");
    }
}
