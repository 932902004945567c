package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.TimeoutError;
import com.microsoft.playwright.options.AriaRole;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.assertj.core.api.Assertions;
import org.holtra.service.support.Client;
import org.holtra.standins.authorization.Authorization;
import org.holtra.standins.authorization.AuthorizationServer;
import org.holtra.standins.cloud.Cloud;
import org.holtra.standins.cloud.CloudServer;
import org.holtra.standins.cloud.Right;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** A cloud that refuses strangers, and owners who grant access, in the console and in a browser of their own. */
class IntroductionPagesTest extends InBrowser {

    private static final int DEVICES = 118;

    private final Cloud cloud = new Cloud(new Random(1));
    private CloudServer server;

    @BeforeEach
    void begin() throws IOException {
        server = new CloudServer(cloud, 0, "cloud-token");
        Client.good(client.adopt("inlets: {}"));
        signIn();
    }

    @AfterEach
    void closeCloud() {
        server.close();
    }

    private Locator panel(String name) {
        return page.getByRole(
                AriaRole.REGION, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    /** On a busy machine a check may have run into its own patience; then it is made again. */
    private static boolean appears(Locator text) {
        try {
            text.waitFor(new Locator.WaitForOptions().setTimeout(10_000));
            return true;
        } catch (TimeoutError e) {
            return false;
        }
    }

    private void enterDevices() {
        StringBuilder table = new StringBuilder("key,fact:site\n");
        for (int n = 1; n <= DEVICES; n++) {
            table.append("cs-%03d,north%n".formatted(n));
        }
        Client.good(client.call(
                "POST",
                "/api/v1/devices/table",
                table.toString().getBytes(StandardCharsets.UTF_8),
                "Content-Type",
                "text/csv",
                "Authorization",
                "Bearer " + service.key()));
    }

    @Test
    void fromNothingToAllDevicesKnownThereAndRemovedAgainByPicking() throws Exception {
        enterDevices();
        client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
        Client.good(client.adopt(
                "inlets: {stations: {kind: http, at: {path: stations, credential: sender}, device: data.id}}"));
        client.save("cloud", Map.of("form", "bearer", "token", "cloud-token"));
        cloud.grant(EnumSet.of(Right.READ_DEVICES, Right.WRITE_MEASUREMENTS));
        cloud.create("somebody-elses", "cs-007");

        page.navigate(service.address() + "/outlets/new");
        page.getByText("Device registry, searched").click();
        page.getByLabel("Address", new Page.GetByLabelOptions().setExact(true))
                .fill("http://127.0.0.1:" + server.port());
        button("Continue with Device registry, searched").click();
        page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("cloud");
        page.getByRole(
                        AriaRole.COMBOBOX,
                        new Page.GetByRoleOptions().setName("credential").setExact(true))
                .click();
        page.getByRole(
                        AriaRole.OPTION,
                        new Page.GetByRoleOptions().setName("cloud").setExact(true))
                .click();
        button("Apply").click();

        // The check names the missing right before any message fails.
        assertThat(panel("Devices there")).isVisible();
        Locator missing =
                page.getByText("the token lacks the right devices:write").first();
        Client.await(
                () -> {
                    button("Check").click();
                    return appears(missing);
                },
                shown -> shown);
        assertThat(page.getByText("right to create devices")).isVisible();
        cloud.grant(EnumSet.allOf(Right.class));

        Locator trial = panel("Try the recipe on one device");
        trial.getByLabel("Device", new Locator.GetByLabelOptions().setExact(true))
                .fill("cs-001");
        trial.getByText("Show requests").click();
        assertThat(trial.getByText("Nothing was sent.")).isVisible();
        Assertions.assertThat(cloud.devices()).hasSize(1);
        trial.getByText("Send find").click();
        assertThat(trial.getByText("absent")).isVisible();

        Locator many = panel("Introduce devices");
        many.getByText("Dry run").click();
        assertThat(many.getByText("would create 118")).isVisible();
        many.getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("Introduce").setExact(true))
                .click();
        assertThat(many.getByText("117 known")).isVisible();
        Locator there = panel("Devices there");
        there.getByText("Refused", new Locator.GetByTextOptions().setExact(true))
                .click();
        assertThat(there.getByText("name taken").first()).isVisible();
        Assertions.assertThat(cloud.devices()).hasSize(DEVICES);

        makeLane();
        for (int n = 1; n <= DEVICES; n++) {
            client.send("stations", "{\"id\":\"cs-%03d\",\"temperature\":4.5}".formatted(n));
        }
        Client.await(() -> cloud.counts().size(), sending -> sending == DEVICES - 1);
        page.navigate(service.address() + "/outlets/cloud");

        Locator made = panel("What we made there");
        made.getByText("Remove all").click();
        button("Remove there").click();
        Client.await(() -> cloud.devices().size(), size -> size == 1);
        assertThat(made.getByText("Nothing of ours is there")).isVisible();
    }

    /** The preset of the outlet brought what its lanes send. */
    private void makeLane() {
        button("New lane to this outlet").click();
        page.getByRole(AriaRole.DIALOG)
                .getByLabel("Name", new Locator.GetByLabelOptions().setExact(true))
                .fill("to-cloud");
        button("To its workbench").click();
        page.getByLabel("stations").check();
        assertThat(button("Apply…")).isEnabled();
        button("Apply…").click();
        Locator confirm = page.getByRole(AriaRole.DIALOG);
        confirm.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Apply"))
                .click();
        Client.await(() -> client.get("/api/v1/lanes").toString(), lanes -> lanes.contains("to-cloud"));
    }

    @Test
    void anOwnerOpensTheLinkConsentsAndComesBack() throws Exception {
        Authorization authorization = new Authorization(InstantSource.system(), new Random(1));
        authorization.client("holtra", "a-client-secret");
        try (AuthorizationServer consent = new AuthorizationServer(authorization, 0, List.of("Ashcombe", "Birkholt"))) {
            client.save(
                    "birkholt-desk",
                    Map.of(
                            "form", "grant",
                            "authorizeUrl", consent.address() + "/authorize",
                            "tokenUrl", consent.address() + "/token",
                            "clientId", "holtra",
                            "clientSecret", "a-client-secret",
                            "scope", "orders",
                            "owner", "the growers of Birkholt"));
            page.navigate(service.address() + "/access");
            assertThat(page.getByText("not consented")).isVisible();
            button("Make link").click();
            String link = page.getByLabel("Link", new Page.GetByLabelOptions().setExact(true))
                    .inputValue();

            try (com.microsoft.playwright.BrowserContext owners = browser.newContext()) {
                Page owner = owners.newPage();
                owner.navigate(link);
                assertThat(owner.getByText("the growers of Birkholt")).isVisible();
                owner.getByText("Continue to").click();
                owner.getByLabel("You are").selectOption("Birkholt");
                owner.getByText("Allow").click();
                assertThat(owner.getByText("Access granted")).isVisible();
            }
            button("Close this").click();
            assertThat(page.getByText("token until")).isVisible();
        }
    }
}
