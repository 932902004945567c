package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.Map;
import org.assertj.core.api.Assertions;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Lanes, inlets, outlets and the setup in the console. */
class WorkbenchPagesTest extends InBrowser {

    private Receiver desk;

    @BeforeEach
    void setUp() {
        desk = Receiver.answering(200);
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt("""
                models:
                  station: {fields: {wetBulb: {label: Wet-bulb temperature, unit: Cel}}}
                inlets:
                  stations:
                    kind: http
                    at: {path: stations, credential: c}
                    device: data.id
                    unknown: {model: "'station'"}
                outlets:
                  desk: {kind: http, to: {url: "%s/orders"}}
                lanes:
                  frost: {inlets: [stations], pick: data.wetBulb < 0, outlet: desk}
                """.formatted(desk.address())));
        Client.good(client.put(
                "/api/v1/devices/one?key=cs-1", Map.of("model", "station", "facts", Map.of("row", 4, "prone", true))));
        signIn();
    }

    @AfterEach
    void closeDesk() {
        desk.close();
    }

    private static String send(double wetBulb) {
        return client.send("stations", "{\"id\":\"cs-1\",\"wetBulb\":%s}".formatted(wetBulb));
    }

    private void go(String path) {
        page.navigate(service.address() + path);
    }

    private Locator panel(String title) {
        return page.locator("section")
                .filter(new Locator.FilterOptions()
                        .setHas(page.getByRole(
                                AriaRole.HEADING,
                                new Page.GetByRoleOptions().setName(title).setExact(true))));
    }

    private void typeCondition(String condition) {
        page.getByLabel("Condition", new Page.GetByLabelOptions().setExact(true))
                .click();
        page.keyboard().press("Control+a");
        page.keyboard().type(condition);
        page.keyboard().press("Escape");
    }

    @Test
    void aNewcomerMakesALaneFromACapturedMessageAndUndoesIt() {
        String id = send(-2.5);
        go("/messages/" + id);
        button("New lane from this message").click();
        page.getByLabel("Name").fill("mild");
        button("To its workbench").click();

        // The condition: not picked at first, and the page says why.
        page.getByLabel("to outlet")
                .or(page.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("outlet")))
                .first()
                .click();
        page.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("desk"))
                .click();
        typeCondition("data.wetBulb < -3.0 && device.facts.prone");
        assertThat(panel("Result")).containsText("`data.wetBulb < -3.0` is false (data.wetBulb is -2.5 Cel)");
        assertThat(panel("Result")).containsText("not picked");
        typeCondition("data.wetBulb < 3.0 && device.facts.prone");
        assertThat(panel("Result")).containsText("picked");
        assertThat(panel("Lane")).containsText("one it takes");

        // The shape: the destination's fields, filled by themselves where names and units fit.
        button("fields").click();
        page.getByLabel("Paste an example of the body")
                .fill("{\"deviceId\": \"x\", \"wet_bulb_f\": 31.5, \"crew\": \"night\"}");
        button("Take these fields").click();
        assertThat(page.getByLabel("what fills wet_bulb_f"))
                .hasValue("round(convert(data.wetBulb, 'Cel', '[degF]'), 2)");
        assertThat(panel("Result")).containsText("\"wet_bulb_f\": 27.5");
        assertThat(panel("Result")).containsText("\"crew\": \"night\"");

        // What it would have done, then active.
        button("Rehearse").click();
        assertThat(panel("Rehearse")).containsText("taken now");
        button("Apply…").click();
        page.getByLabel("Reason for the change").fill("mild nights too");
        button("Apply").click();
        assertThat(page.getByText("active, revision")).isVisible();

        String second = send(-1);
        client.traceWhen(
                second,
                trace -> trace.path("lanes")
                        .valueStream()
                        .anyMatch(lane -> lane.path("lane").asString().equals("mild")
                                && lane.path("state").asString("").equals("delivered")));
        go("/messages/" + second);
        assertThat(page.getByText("mild nights")).hasCount(0);
        assertThat(panel("mild → desk")).containsText("delivered");

        // And back.
        go("/setup");
        row("mild nights too")
                .locator("xpath=following-sibling::tr[1]")
                .getByRole(AriaRole.BUTTON)
                .click();
        page.getByRole(AriaRole.BUTTON)
                .filter(new Locator.FilterOptions().setHasText("again"))
                .click();
        assertThat(row("as in revision")).containsText("active");
        Assertions.assertThat(client.get("/api/v1/lanes").toString()).doesNotContain("mild");
    }

    @Test
    void factsAreSupposedForATryOnly() {
        String id = send(-2.5);
        go("/lanes/frost?message=" + id);
        typeCondition("device.facts.row > 5");
        assertThat(panel("Result")).containsText("not picked");

        page.getByLabel("suppose row").fill("9");

        assertThat(panel("Result")).not().containsText("not picked");
        assertThat(page.getByText("Supposed for this try; the registry stays as it is."))
                .isVisible();
    }

    @Test
    void aTrialIsSentOnlyAfterAskingAndIsTraced() {
        String id = send(5);
        go("/lanes/frost?message=" + id);
        button("Send this one").click();
        Assertions.assertThat(desk.came()).isEmpty();
        button("Send").click();

        assertThat(panel("Result")).containsText("answered 200");
        page.getByText("its trace").click();
        assertThat(panel("Trials")).containsText("Trial on frost");
        Assertions.assertThat(desk.came().getFirst().header("Holtra-Trial")).isEqualTo("true");
    }

    @Test
    void anErrorStandsBesideTheConditionAndADraftSurvives() {
        send(1);
        go("/lanes/frost");
        typeCondition("data.wetBulb <");
        assertThat(page.getByText("the expression ends too early")).isVisible();
        assertThat(button("Apply…")).isDisabled();
        assertThat(page.getByText("draft kept")).isVisible();

        go("/lanes/frost");
        assertThat(page.getByLabel("Condition", new Page.GetByLabelOptions().setExact(true)))
                .containsText("data.wetBulb <");
        button("Discard the draft").click();
        assertThat(page.getByLabel("Condition", new Page.GetByLabelOptions().setExact(true)))
                .containsText("data.wetBulb < 0");
    }

    @Test
    void whoIsOvertakenSeesTheDifferenceFirst() {
        send(1);
        go("/lanes/frost");
        typeCondition("data.wetBulb < -5.0");
        assertThat(page.getByText("draft kept")).isVisible();
        Client.good(client.post("/api/v1/setup/parts/lanes/frost/close", Map.of()));

        assertThat(page.getByText("Somebody changed this lane since you began."))
                .isVisible();
        button("See the difference").click();
        assertThat(page.getByLabel("Difference", new Page.GetByLabelOptions().setExact(true)))
                .containsText("state: closed");
    }

    @Test
    void anOutletIsMadeFromAPastedExample() {
        go("/outlets/new");
        page.getByLabel("Example: a curl line")
                .fill("curl '" + desk.address()
                        + "/in/?site=7' -H 'Authorization: Bearer Bearer s3cret-9' -d '{\"a\": 1}'");
        button("Analyse").click();
        assertThat(page.getByText("The scheme word stands twice: Bearer Bearer"))
                .isVisible();
        button("Create outlet from this").click();
        page.getByLabel("Name").fill("pasted");
        assertThat(page.getByLabel("Address")).hasValue(desk.address() + "/in");
        button("Save as pasted").click();
        // Until then the outlet could be applied without it.
        assertThat(button("Save as pasted")).isHidden();
        button("Apply").click();

        assertThat(page.getByText("No lane delivers here yet.")).isVisible();
        Assertions.assertThat(client.get("/api/v1/outlets").toString())
                .contains("pasted")
                .doesNotContain("s3cret-9");
    }

    @Test
    void anInletIsMadeFromAPresetAndItsSecretShownOnce() {
        go("/inlets/new");
        button(
                        "JSON webhook Anything that can post JSON to an address: say where in it the device's key and the time stand.")
                .click();
        button("Continue with JSON webhook").click();
        page.getByLabel("Name").fill("posts");
        page.getByLabel("Path").fill("Not a path");
        assertThat(page.getByText("`Not a path` is not written right")).isVisible();
        page.getByLabel("Path").fill("posts");
        button("Make a secret").click();
        assertThat(page.getByText("Copy the secret now; it is never shown again."))
                .isVisible();
        String secret = page.getByLabel("Secret").innerText().strip();
        button("Apply").click();

        assertThat(page.getByText("No message yet")).isVisible();
        int status = client.call(
                        "POST",
                        "/in/posts",
                        "{\"device\":\"x\",\"at\":\"2026-04-12T03:20:00Z\"}".getBytes(),
                        "Authorization",
                        "Bearer " + secret,
                        "Content-Type",
                        "application/json")
                .status();
        Assertions.assertThat(status).isEqualTo(202);
    }

    @Test
    void aLookupIsEditedAsATable() {
        go("/lookups");
        page.getByLabel("Name of the lookup").fill("words");
        button("Create lookup").click();
        page.getByLabel("key 1").fill("1");
        page.getByLabel("value 1").fill("running");
        page.getByLabel("key 2").fill("2");
        page.getByLabel("value 2").fill("blocked");
        button("Apply").click();
        assertThat(page.getByText("2 rows")).isVisible();
        go("/setup");

        assertThat(row("lookup words")).isVisible();
        String csv =
                client.keyed("GET", "/api/v1/lookups/words/csv", null, "x/y").body();
        Assertions.assertThat(csv).isEqualTo("key,value\r\n1,running\r\n2,blocked\r\n");
    }

    @Test
    void aLaneWithSomethingWaitingAsksBeforeItGoes() {
        Client.good(client.post("/api/v1/setup/parts/lanes/frost/close", Map.of()));
        String id = send(-4);
        go("/lanes/frost");
        button("Remove").click();
        assertThat(page.getByText("1 delivery waits in it")).isVisible();
        page.getByRole(AriaRole.DIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Remove"))
                .click();
        assertThat(button("Drop 1 delivery")).isDisabled();
        page.getByLabel("Type frost to drop them").fill("frost");
        button("Drop 1 delivery").click();

        assertThat(page.getByText("0 lanes")).isVisible();
        Assertions.assertThat(Client.state(client.trace(id))).isEqualTo("dropped");
    }
}
