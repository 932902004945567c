package org.holtra.core.reading.proposal;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Map;
import java.util.Random;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Transport;
import org.junit.jupiter.api.Test;

class ArrivalLookTest {

    private final MessageIds ids = new MessageIds(() -> Instant.parse("2026-04-12T03:20:00Z"), new Random(1));

    private ReadingProposal look(String contentType, String body, Map<String, Object> transport) {
        return look(contentType, body, transport, false);
    }

    private ReadingProposal look(String contentType, String body, Map<String, Object> transport, boolean isOne) {
        Transport came = Transport.of("127.0.0.1", "/in/i");
        for (Map.Entry<String, Object> field : transport.entrySet()) {
            came = came.with(field.getKey(), field.getValue());
        }
        return ArrivalLook.at(
                new Arrival(ids.next(), "i", came, contentType, body.getBytes(StandardCharsets.UTF_8)), isOne);
    }

    private ReadingProposal look(String body) {
        return look("application/json", body, Map.of());
    }

    @Test
    void findsDeviceTimePayloadPortAndCounterOfAnUplink() {
        ReadingProposal found = look("""
                {"messageId":"0b7a","device":{"eui":"70b3d57ed0001234"},"payload":"AQIDBAUG","port":2,"fCnt":17,
                 "at":"2026-04-12T03:20:00Z","gateway":{"id":"gw-1"}}""");
        assertThat(found.format()).isNull();
        assertThat(found.parts()).isEmpty();
        assertThat(found.device().getFirst().expression()).isEqualTo("data.device.eui");
        assertThat(found.time().getFirst().expression()).isEqualTo("data.at");
        assertThat(found.time().getFirst().with()).isEmpty();
        assertThat(found.payload().getFirst().expression()).isEqualTo("data.payload");
        assertThat(found.payload().getFirst().with())
                .containsEntry("encoding", "base64")
                .containsEntry("port", "data.port");
        assertThat(found.sequence().getFirst().expression()).isEqualTo("data.fCnt");
        assertThat(found.fields()).containsEntry("port", 2L);
    }

    @Test
    void takesAListOfObjectsForMessagesAndLooksAtTheFirst() {
        ReadingProposal found = look("""
                {"gateway":"gw-1","sent":1776136800,"readings":[{"meter":"m1","v":1},{"meter":"m2","v":2}]}""");
        assertThat(found.parts().getFirst().expression()).isEqualTo("data.readings");
        assertThat(found.device().getFirst().expression()).isEqualTo("data.meter");
        assertThat(found.time().getFirst().expression()).isEqualTo("meta.whole.sent");
        assertThat(found.time().getFirst().with()).containsEntry("timeForm", "seconds");
        assertThat(found.fields()).containsOnlyKeys("meter", "v");
    }

    @Test
    void anArrivalThatIsOneMessageIsLookedAtAsAWhole() {
        String body =
                "{\"station\":\"s1\",\"at\":\"2026-04-12T03:20:00Z\",\"r\":[{\"id\":1,\"v\":1},{\"id\":2,\"v\":2}]}";
        ReadingProposal found = look("application/json", body, Map.of(), true);
        assertThat(found.parts()).isEmpty();
        assertThat(found.device().getFirst().expression()).isEqualTo("data.station");
        assertThat(found.fields()).containsKeys("r.0.v", "r.1.v");
    }

    @Test
    void aListAtTheTopIsOfMessages() {
        ReadingProposal found = look("[{\"id\":\"a\",\"v\":1},{\"id\":\"b\",\"v\":2}]");
        assertThat(found.parts().getFirst().expression()).isEqualTo("data");
        assertThat(found.device().getFirst().expression()).isEqualTo("data.id");
    }

    @Test
    void recognisesFormFieldsWithoutTheirContentType() {
        ReadingProposal found = look("text/plain", "sn=4711&ts=1776136800000&ch1=1500", Map.of());
        assertThat(found.format()).isEqualTo("form");
        assertThat(found.device().getFirst().expression()).isEqualTo("data.sn");
        assertThat(found.time().getFirst().with()).containsEntry("timeForm", "millis");
    }

    @Test
    void recognisesCsvAndLocalTimes() {
        ReadingProposal found = look(
                "text/plain", "station,time,t\ns1,2026-04-12 03:20:00,4.5\ns2,2026-04-12 03:20:00,4.1\n", Map.of());
        assertThat(found.format()).isEqualTo("csv");
        assertThat(found.parts().getFirst().expression()).isEqualTo("data.rows");
        assertThat(found.time().getFirst().with()).containsEntry("timeForm", "yyyy-MM-dd HH:mm:ss");
        assertThat(found.time().getFirst().why()).contains("zone");
    }

    @Test
    void aPartOfTheAddressIsTheLikeliestDevice() {
        ReadingProposal found = look("text/plain", "23.4", Map.of("path", Map.of("probe", "p-1", "depth", "30")));
        assertThat(found.device().getFirst().expression()).isEqualTo("meta.path.probe");
    }

    @Test
    void namesThatAreNoIdentifiersAreQuoted() {
        ReadingProposal found = look("{\"dev-eui\":\"70b3d57ed0001234\",\"value\":1}");
        assertThat(found.device().getFirst().expression()).isEqualTo("data[\"dev-eui\"]");
    }

    @Test
    void hexIsToldFromBase64AndFromNumbers() {
        assertThat(look("{\"payload\":\"0a1bff\"}").payload().getFirst().with()).containsEntry("encoding", "hex");
        assertThat(look("{\"payload\":\"12345678\"}").payload()).isEmpty();
        assertThat(look("{\"payload\":\"hello world\"}").payload()).isEmpty();
    }

    @Test
    void saysSoWhereNothingCanBeProposed() {
        ReadingProposal found = look("application/octet-stream", "\u0001\u0002", Map.of());
        assertThat(found.trouble()).contains("neither JSON");
    }
}
