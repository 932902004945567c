package org.holtra.service.introducing;

import java.util.List;
import org.holtra.service.support.Client;
import org.holtra.standins.cloud.Cloud;
import tools.jackson.databind.JsonNode;

/** A test with an outlet that introduces devices at the stand-in of a cloud. */
interface CloudTest {

    Client client();

    String outlet();

    Cloud cloud();

    default String send(String device, int n) {
        return client().send("i", "{\"id\":\"" + device + "\",\"n\":" + n + "}");
    }

    default JsonNode introductions() {
        return client().get("/api/v1/outlets/" + outlet() + "/introductions");
    }

    /** How a device stands at the outlet; an empty object if nobody asked for it. */
    default JsonNode device(String key) {
        for (JsonNode one : introductions().path("introductions")) {
            if (one.path("device").asString().equals(key)) {
                return one;
            }
        }
        return Client.JSON.createObjectNode();
    }

    default JsonNode becomes(String key, String state, String why) {
        return Client.await(
                () -> device(key),
                one -> one.path("state").asString("").equals(state)
                        && one.path("why").asString("").equals(why));
    }

    /** What the cloud took of a device, the first first. */
    default List<String> bodies(String device) {
        return cloud().measurements().stream()
                .filter(one -> one.device().equals(device))
                .map(Cloud.Measurement::body)
                .toList();
    }

    default JsonNode job(JsonNode begun) {
        return Client.await(
                () -> client().get("/api/v1/jobs/" + begun.path("id").asString()),
                job -> !job.path("state").asString().equals("running"));
    }
}
