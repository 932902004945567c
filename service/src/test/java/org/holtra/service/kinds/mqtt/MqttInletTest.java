package org.holtra.service.kinds.mqtt;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.stream.IntStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestBroker;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

/** Messages that come from a real broker. */
class MqttInletTest extends MqttTest {

    @ParameterizedTest
    @CsvSource({"5, 0", "5, 1", "5, 2", "3.1.1, 0", "3.1.1, 1", "3.1.1, 2"})
    void messagesComeInOrderInBothVersionsAndAllQualitiesOfService(String version, int qos) {
        broker = TestBroker.open();
        Client.good(client.adopt(setup(
                ", version: \"" + version + "\"",
                "topics: [\"pumps/{house}\"], qos: " + qos,
                "format: json, device: meta.path.house")));
        inletSays("subscribed to `pumps/{house}`");

        broker.publish("pumps/north", reading(1), reading(2), reading(3));

        assertThat(came(3)).containsExactly("1", "2", "3");
        balanced();
        JsonNode message = client.get("/api/v1/messages").path("messages").get(0);
        assertThat(message.path("device").asString()).isEqualTo("north");
    }

    @Test
    void theTopicAndItsNamedLevelsAreSeenByExpressions() {
        broker = TestBroker.open();
        Client.good(client.adopt(setup(
                "",
                "topics: [\"site/{area}/{house}/#\"]",
                "format: json, device: \"meta.path.area + '-' + meta.path.house\", meta: {again: meta.retained}")));
        inletSays("subscribed");

        broker.publish("site/hill/2/flow", reading(1));

        came(1);
        assertThat(Client.JSON
                        .readTree(receiver.came().getFirst().body())
                        .path("topic")
                        .asString())
                .isEqualTo("site/hill/2/flow");
        assertThat(client.get("/api/v1/devices").toString()).contains("\"hill-2\"");
    }

    @Test
    void aBareNumberOfOneTopicIsTheFieldThatItsTopicNames() {
        broker = TestBroker.open();
        Client.good(client.adopt("""
                connections:
                  plant: {kind: mqtt, to: {address: "%s"}}
                inlets:
                  m:
                    kind: mqtt
                    at: {connection: plant, topics: ["logger/{house}/{field}"]}
                    format: text
                    device: meta.path.house
                    value: {field: meta.path.field}
                """.formatted(broker.address())));
        inletSays("subscribed");

        broker.publish("logger/north/flow", "12.5");

        Client.await(() -> client.get("/api/v1/devices").toString(), all -> all.contains("\"north\""));
        JsonNode values = Client.await(
                () -> client.get("/api/v1/devices/one?key=north"),
                device -> device.toString().contains("12.5"));
        assertThat(values.toString()).contains("flow");
    }

    @Test
    void whatTheBrokerRetainedIsTakenAsSuchOrNotAtAll() {
        broker = TestBroker.open();
        broker.publishRetained("pumps/north", reading(1));
        adopt("topics: [\"pumps/{house}\"], retained: ignore");
        inletSays("subscribed");
        broker.publish("pumps/north", reading(2));
        assertThat(came(1)).containsExactly("2");

        Client.good(client.adopt(setup(
                "",
                "topics: [\"pumps/+\"], clientId: another",
                "format: json, device: \"meta.retained ? 'kept' : 'new'\"")));
        assertThat(came(2)).containsExactly("2", "1");
        assertThat(client.get("/api/v1/devices").toString()).contains("kept");
    }

    @Test
    void theBrokerKeepsMessagesWhileTheServiceIsAway() {
        broker = TestBroker.open();
        adopt("topics: [\"pumps/{house}\"]");
        inletSays("subscribed");
        service.close();
        broker.publish("pumps/north", reading(1), reading(2));

        service = service.again();
        client = service.client();

        assertThat(came(2)).containsExactly("1", "2");
    }

    @Test
    void aClosedInletIsNotSubscribedAndTheBrokerKeepsNothingForIt() {
        broker = TestBroker.open();
        adopt("topics: [\"pumps/{house}\"]");
        inletSays("subscribed");
        Client.good(client.post("/api/v1/setup/parts/inlets/m/close", null));
        broker.publish("pumps/north", reading(1));

        Client.good(client.post("/api/v1/setup/parts/inlets/m/open", null));
        inletSays("subscribed");
        broker.publish("pumps/north", reading(2));

        assertThat(came(1)).containsExactly("2");
    }

    @Test
    void topicsThatWereTakenOutAreUnsubscribedAlsoWhereTheBrokerRemembersThem() {
        broker = TestBroker.open();
        adopt("topics: [\"pumps/{house}\", \"valves/{house}\"]");
        inletSays("`valves/{house}`");
        adopt("topics: [\"pumps/{house}\"]");
        Client.await(
                () -> inlet().at("/connection/reason").asString(""),
                reason -> reason.contains("subscribed to `pumps/{house}`") && !reason.contains("valves"));

        broker.publish("valves/north", reading(1));
        broker.publish("pumps/north", reading(2));

        assertThat(came(1)).containsExactly("2");
    }

    @Test
    void aBrokerThatStartsAnewIsConnectedToAgain() {
        broker = TestBroker.open();
        adopt("topics: [\"pumps/{house}\"]");
        inletSays("subscribed");
        broker.stop();
        inletSays("nobody listens at 127.0.0.1");
        connectionSays("nobody listens at 127.0.0.1");

        broker.start();
        inletSays("subscribed");
        broker.publish("pumps/north", reading(1));

        assertThat(came(1)).containsExactly("1");
    }

    @Test
    void aBrokerThatSendsMoreThanTheReceiveMaximumLosesNothing() {
        broker = TestBroker.with("allow_anonymous true", "max_queued_messages 0");
        adopt("topics: [\"pumps/{house}\"], receiveMaximum: 2");
        inletSays("subscribed");

        broker.publishAtOnce(
                "pumps/north",
                IntStream.rangeClosed(1, 400).mapToObj(MqttTest::reading).toList());

        // What was on its way when the connection was ended comes once more.
        List<String> came =
                Client.await(() -> came(1).stream().distinct().toList(), distinct -> distinct.size() == 400);
        assertThat(came)
                .containsExactlyElementsOf(IntStream.rangeClosed(1, 400)
                        .mapToObj(Integer::toString)
                        .toList());
    }

    @Test
    void anInletThatSubscribesToNothingSaysSo() {
        broker = TestBroker.open();
        adopt("topics: []");

        inletSays("it subscribes to nothing");
    }

    @Test
    void withoutMessagesItTellsWhatComesUnderTopicsThatAreWrittenAlmostLikeThat() {
        broker = TestBroker.open();
        broker.publishRetained("pump/north", reading(1));
        adopt("topics: [\"pumps/{house}\"], quiet: 1s");

        inletSays("and nothing has come; near it, `pump/north` carries traffic");
    }

    @Test
    void anotherClientOfItsIdThrowsItOutAndItSaysSo() {
        broker = TestBroker.open();
        adopt("topics: [\"pumps/{house}\"], clientId: twin");
        inletSays("subscribed");

        broker.connectAs("twin");

        inletSays("another client seems to have the same id, `twin`");
    }

    @Test
    void aPartThatNamesNoConnectionThatIsThereIsRefusedWithTheNearest() {
        broker = TestBroker.open();
        Client.Answer answer = client.adopt(
                setup("", "topics: [a]", "format: json").replace("connection: plant", "connection: plent"));

        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body()).contains("there is no connection `plent`; did you mean `plant`?");
    }

    @Test
    void aFilterThatIsNoneIsFoundByTheCheckOfTheSetup() {
        broker = TestBroker.open();
        Client.Answer answer = client.adopt(setup("", "topics: [\"a/#/b\"]", "format: json"));

        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body()).contains("can only be the last");
    }
}
