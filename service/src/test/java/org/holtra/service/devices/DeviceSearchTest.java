package org.holtra.service.devices;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class DeviceSearchTest extends ServiceTest {

    @Test
    void devicesComePageByPageAllOrThoseThatFit() {
        for (int number = 0; number < 25; number++) {
            String key = "dev-%02d".formatted(number);
            Client.good(client.put(
                    "/api/v1/devices/one?key=" + key,
                    Map.of("model", number % 2 == 0 ? "even" : "odd", "facts", Map.of("row", number / 10))));
        }

        assertThat(keys("")).hasSize(25).isSorted();
        assertThat(client.get("/api/v1/devices?limit=10").path("total").asInt()).isEqualTo(25);
        assertThat(keys("&model=odd")).hasSize(12).allMatch(key -> key.matches("dev-.[13579]"));
        assertThat(keys("&search=row%3D1 even")).containsExactly("dev-10", "dev-12", "dev-14", "dev-16", "dev-18");
        assertThat(keys("&state=unheard&search=DEV-2")).hasSize(5);
        assertThat(keys("&state=silent")).isEmpty();
        assertThat(client.call("GET", "/api/v1/devices?limit=0", null).status()).isIn(400, 401);
    }

    private List<String> keys(String query) {
        List<String> keys = new ArrayList<>();
        String after = "";
        do {
            JsonNode page = client.get("/api/v1/devices?limit=4" + query.replace(" ", "%20") + "&after=" + after);
            page.path("devices").forEach(device -> keys.add(device.path("key").asString()));
            after = page.path("next").asString(null);
        } while (after != null);
        return keys;
    }
}
