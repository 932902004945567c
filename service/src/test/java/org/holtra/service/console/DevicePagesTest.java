package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.Map;
import org.assertj.core.api.Assertions;
import org.holtra.service.support.Client;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Inlets, devices and models in the console. */
class DevicePagesTest extends InBrowser {

    @BeforeEach
    void setUp() {
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt("""
                models:
                  probe:
                    codec:
                      layout:
                        fields:
                          - {name: t, bits: 8, unit: Cel}
                    fields: {t: {label: Soil temperature, unit: Cel}}
                inlets:
                  uplinks:
                    kind: http
                    at: {path: uplinks, credential: c}
                    device: data.id
                    payload: {bytes: data.payload, port: data.port}
                    sequence: data.n
                    unknown: {model: "'probe'"}
                  quiet:
                    kind: http
                    at: {path: quiet, credential: c}
                """));
        signIn();
    }

    private static void uplink(String id, int number, String payload) {
        client.send("uplinks", "{\"id\":\"%s\",\"n\":%d,\"port\":2,\"payload\":\"%s\"}".formatted(id, number, payload));
    }

    private void go(String path) {
        page.navigate(service.address() + path);
    }

    @Test
    void anUnheardInletTurnsLiveWhenSomethingComes() {
        go("/inlets");
        page.getByRole(AriaRole.LINK)
                .filter(new Locator.FilterOptions().setHasText("/in/quiet"))
                .click();
        assertThat(page.getByText("No message yet")).isVisible();

        client.send("quiet", "{\"hello\":\"orchard\"}");

        assertThat(page.getByText("The last arrival")).isVisible();
        assertThat(page.getByLabel("Arrival")).containsText("orchard");
        assertThat(row("data.hello")).containsText("text");
    }

    @Test
    void aDeviceAppearsWithItsValuesAndPlotAndGaps() {
        uplink("pg-1", 1, "FQ==");
        uplink("pg-1", 4, "Fg==");
        go("/devices?search=pg-1");
        row("pg-1").getByRole(AriaRole.LINK).click();

        assertThat(row("Soil temperature")).containsText("22");
        assertThat(row("Soil temperature")).containsText("°C");
        assertThat(page.getByText("2 numbers are missing: 1 was followed by 4")).isVisible();
        assertThat(page.getByLabel("t over time, 2 values")).isVisible();

        uplink("pg-1", 5, "Hg==");
        assertThat(row("Soil temperature")).containsText("30");
    }

    @Test
    void factsAreChangedOnADevicesPageAndForManyAtOnce() {
        uplink("pg-2", 1, "FQ==");
        uplink("pg-3", 1, "FQ==");
        go("/devices/pg-2");
        button("Add a fact").click();
        page.getByLabel("Name of fact 1").fill("row");
        page.getByLabel("Value of row").fill("7");
        button("Save").click();
        assertThat(page.getByText("revision 2")).isVisible();

        go("/devices?search=pg-");
        page.getByLabel("pg-2", new Page.GetByLabelOptions().setExact(true)).check();
        page.getByLabel("pg-3", new Page.GetByLabelOptions().setExact(true)).check();
        page.getByLabel("Name of the fact").fill("orchard");
        page.getByLabel("Value; leave empty to remove it").fill("Dunmere");
        button("Set").click();

        assertThat(row("pg-3")).containsText("orchard Dunmere");
        assertThat(row("pg-2")).containsText("orchard Dunmere, row 7");
        Assertions.assertThat(client.get("/api/v1/devices/one?key=pg-2")
                        .at("/facts/row")
                        .asInt())
                .isEqualTo(7);
    }

    @Test
    void aDeviceIsBarredAndForgotten() {
        uplink("pg-4", 1, "FQ==");
        go("/devices/pg-4");
        button("Bar").click();
        assertThat(page.getByText("barred").first()).isVisible();
        button("Forget").click();
        page.getByRole(AriaRole.ALERTDIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Forget"))
                .click();

        page.waitForURL("**/devices");
        assertThat(row("pg-4")).hasCount(0);
    }

    @Test
    void aScriptIsTriedOnACapturedUplinkAttachedAndDecodesTheNext() {
        uplink("pg-5", 1, "Fg==");
        go("/models/probe");
        assertThat(page.getByLabel("Decoded data")).containsText("\"t\": ");
        page.getByLabel("Type of codec").click();
        page.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("script"))
                .click();
        Locator editor = page.getByLabel("Codec", new Page.GetByLabelOptions().setExact(true));
        assertThat(editor).containsText("input.bytes, input.fPort");
        editor.fill("function decodeUplink(input) {\n  return { data: { t: input.bits[0] } };\n}");
        assertThat(page.getByText("line 2").first()).isVisible();
        editor.fill("function decodeUplink(input) {\n  return { data: { t: input.bytes[0] * 2 } };\n}");
        page.getByLabel("bytes, hexadecimal or base64").fill("16");
        assertThat(page.getByLabel("Decoded data")).containsText("\"t\": 44");

        page.getByLabel("Reason for the new codec").fill("the maker's script");
        button("Attach to probe").click();

        assertThat(page.getByText("Applied as revision")).isVisible();
        uplink("pg-5", 2, "Fg==");
        Client.await(
                () -> client.get("/api/v1/devices/one?key=pg-5"),
                device -> device.at("/values/t/value").asInt() == 44);
    }

    @Test
    void whatABrokenCodecCouldNotReadIsReadAgainFromTheModelsPage() {
        uplink("pg-6", 1, "");
        Assertions.assertThat(client.get("/api/v1/messages?device=pg-6")
                        .at("/messages/0/state")
                        .asString())
                .isEqualTo("unreadable");
        go("/models/probe");
        page.getByLabel("Codec", new Page.GetByLabelOptions().setExact(true))
                .fill("fields:\n  - {name: t, bits: 8, unit: Cel, optional: true}");
        button("Attach to probe").click();
        assertThat(page.getByText("Applied as revision")).isVisible();

        button("Preview").click();
        assertThat(page.getByText("nothing was changed")).isVisible();
        button("Read again").click();

        assertThat(page.getByText("1 read now, 0 still not, 0 new deliveries, 0 corrections"))
                .isVisible();
        Client.await(
                () -> client.get("/api/v1/messages?device=pg-6")
                        .at("/messages/0/state")
                        .asString(),
                "read"::equals);
    }

    @Test
    void theMapShowsDevicesWhereTheirFactsSayTheyAre() {
        Client.good(client.put(
                "/api/v1/devices/one?key=pg-7", Map.of("facts", Map.of("latitude", 12.5, "longitude", -41.25))));
        go("/devices");
        page.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("map")).click();

        page.getByLabel("Device pg-7").click();

        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("pg-7")))
                .isVisible();
    }
}
