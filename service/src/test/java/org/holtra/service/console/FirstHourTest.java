package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.assertj.core.api.Assertions;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** From an empty instance to a meter's channels at their destination, in the console alone. */
class FirstHourTest extends InBrowser {

    private static final String METERS = """
            {"box":"b-1","sent":1776136800,"meters":[
              {"serial":"m-1","ch1":1500,"ch2":4211.5},{"serial":"m-2","ch1":900,"ch2":388.25}]}
            """;

    private final Receiver historian = Receiver.answering(200);

    @BeforeEach
    void begin() {
        Client.good(client.adopt("inlets: {}"));
        signIn();
    }

    @AfterEach
    void closeHistorian() {
        historian.close();
    }

    private int post(String path) {
        return client.call("POST", path, METERS.getBytes(StandardCharsets.UTF_8), "Content-Type", "application/json")
                .status();
    }

    private void row(String channel, String point, String field, String factor, String unit) {
        page.getByLabel("Point of " + channel).fill(point);
        page.getByLabel("Field of " + channel).fill(field);
        page.getByLabel("Factor of " + channel).fill(factor);
        page.getByLabel("Unit of " + channel).fill(unit);
    }

    private Locator choice(String label) {
        return page.getByRole(
                AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName(label).setExact(true));
    }

    private void option(String name) {
        page.getByRole(
                        AriaRole.OPTION,
                        new Page.GetByRoleOptions().setName(name).setExact(true))
                .click();
    }

    /** A meter that knows nothing but a URL: its inlet has the secret in the query. */
    private String makeInlet() {
        page.navigate(service.address() + "/");
        button("Make an inlet").click();
        button("http").click();
        page.getByLabel("Name").fill("old-meter");
        page.getByLabel("Path").fill("old-meter");
        choice("form").click();
        option("query");
        button("Make a secret").click();
        String secret = page.getByLabel("Secret").innerText().strip();
        button("Apply").click();
        assertThat(page.getByText("No message yet")).isVisible();
        return secret;
    }

    @Test
    void aMeterThatKnowsOnlyAUrlReachesTheHistorianWithoutAWordOfYaml() {
        String secret = makeInlet();

        Assertions.assertThat(post("/in/old-metr?key=" + secret)).isEqualTo(404);
        Assertions.assertThat(post("/in/old-meter")).isEqualTo(401);
        Assertions.assertThat(post("/in/old-meter?key=%22" + secret + "%22")).isEqualTo(401);
        assertThat(page.getByText("The nearest is /in/old-meter, of inlet old-meter."))
                .isVisible();
        assertThat(page.getByText("The query has no parameter key.").first()).isVisible();
        assertThat(page.getByText("The secret stands in quotes or brackets").first())
                .isVisible();
        Assertions.assertThat(page.content()).doesNotContain(secret);

        Assertions.assertThat(post("/in/old-meter?key=" + secret)).isEqualTo(202);
        assertThat(page.getByText("Several messages in one arrival")).isVisible();
        assertThat(page.getByLabel("Device", new Page.GetByLabelOptions().setExact(true))
                        .first())
                .hasValue("data.serial");
        page.locator("form:has-text('Several messages in one arrival')")
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Apply"))
                .click();
        assertThat(button("Propose settings")).isVisible();
        Assertions.assertThat(post("/in/old-meter?key=" + secret)).isEqualTo(202);

        Client.await(() -> client.get("/api/v1/devices").path("total").asInt(), count -> count == 2);
        page.navigate(service.address() + "/devices/m-1");
        button("Map channels").click();
        page.getByTitle("Map it").getByText("ch1").click();
        page.getByTitle("Map it").getByText("ch2").click();
        row("ch1", "feed-in", "power", "0.001", "kW");
        row("ch2", "feed-in", "energy", "1", "kW.h");
        assertThat(page.getByText("1.5 kW", new Page.GetByTextOptions().setExact(true)))
                .isVisible();
        button("chosen devices").click();
        button("choose all").click();
        button("Apply").click();
        assertThat(page.getByText("2 fields are made of what it sends")).isVisible();

        makeLane();
        Assertions.assertThat(post("/in/old-meter?key=" + secret)).isEqualTo(202);
        List<Receiver.Came> came = Client.await(historian::came, all -> all.size() >= 2);
        Assertions.assertThat(came)
                .extracting(Receiver.Came::body)
                .anySatisfy(body -> Assertions.assertThat(body).contains("m-1", "1.5", "feed_in"))
                .anySatisfy(body -> Assertions.assertThat(body).contains("m-2", "0.9", "feed_in"));
    }

    /** The way out is made inside the workbench. */
    private void makeLane() {
        page.navigate(service.address() + "/lanes");
        button("New lane").click();
        page.getByLabel("Name").fill("meters");
        button("To its workbench").click();
        page.getByLabel("old-meter").check();
        assertThat(page.getByText("would have taken")).isVisible();
        button("New outlet").click();
        Locator sheet = page.getByRole(AriaRole.DIALOG);
        sheet.getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("http").setExact(true))
                .click();
        sheet.getByLabel("Name").fill("historian");
        sheet.getByLabel("Address").fill(historian.address() + "/write");
        sheet.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Apply"))
                .click();
        assertThat(sheet).isHidden();
        button("Apply…").click();
        Locator confirm = page.getByRole(AriaRole.DIALOG);
        assertThat(confirm).isVisible();
        confirm.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Apply"))
                .click();
        Client.await(() -> client.get("/api/v1/lanes").toString(), lanes -> lanes.contains("meters"));
    }
}
