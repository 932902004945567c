package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.assertj.core.api.Assertions;
import org.holtra.service.support.Client;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The setup file, credentials, API keys and storage in the console. */
class SettingsPagesTest extends InBrowser {

    private static final String SETUP = """
            inlets:
              gate: {kind: http, at: {path: gate, credential: c}, device: data.id}
            """;

    @BeforeEach
    void setUp() {
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt(SETUP));
        signIn();
    }

    private void go(String path) {
        page.navigate(service.address() + path);
    }

    private void type(String setup) {
        page.getByLabel("Setup file", new Page.GetByLabelOptions().setExact(true))
                .click();
        page.keyboard().press("Control+a");
        page.keyboard().insertText(setup);
    }

    @Test
    void theSetupFileIsCheckedWhileItIsTypedComparedAndApplied() {
        go("/setup");
        type(SETUP.replace("device: data.id", "devise: data.id"));
        assertThat(page.getByText("1 error")).isVisible();
        assertThat(page.getByText("nothing here is called `devise`")).isVisible();
        assertThat(button("Apply")).isDisabled();

        type(SETUP.replace("device: data.id", "device: data.key"));
        assertThat(page.getByText("No errors")).isVisible();
        button("Show changes").click();
        assertThat(page.getByLabel("Changes", new Page.GetByLabelOptions().setExact(true)))
                .containsText("device: data.key");
        page.keyboard().press("Escape");
        page.getByLabel("Note (optional)").fill("the key has another name");
        button("Apply").click();

        assertThat(row("the key has another name")).containsText("active");
        Assertions.assertThat(client.get("/api/v1/setup/parts/inlets/gate")
                        .at("/content/device")
                        .asString())
                .isEqualTo("data.key");
    }

    @Test
    void aCredentialIsSavedWithWhatWasNoticedAndRemovedUnlessItIsUsed() {
        go("/access");
        page.getByLabel("Name of the credential").fill("cloud");
        page.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("form"))
                .click();
        page.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("bearer"))
                .click();
        page.getByLabel("Token").fill("Bearer abc.def");
        button("Save credential").click();

        assertThat(page.getByText("The word Bearer before the token was removed"))
                .isVisible();
        assertThat(row("cloud")).containsText("bearer");
        remove("cloud");
        assertThat(row("cloud")).hasCount(0);
        row("bearer").getByText("Remove").click();
        page.getByRole(AriaRole.ALERTDIALOG).getByText("Remove", exactly()).click();
        assertThat(page.getByRole(AriaRole.ALERT)).containsText("is used by inlet `gate`");
    }

    @Test
    void anApiKeyWorksUntilItIsRemoved() {
        go("/access");
        page.getByLabel("Name of the new key").fill("report");
        button("Create key").click();
        String shown = page.getByLabel("API key", new Page.GetByLabelOptions().setExact(true))
                .textContent();
        Matcher key = Pattern.compile("holtra_\\S+").matcher(shown);
        Assertions.assertThat(key.find()).isTrue();
        String[] bearer = {"Authorization", "Bearer " + key.group()};
        Assertions.assertThat(client.call("GET", "/api/v1/lanes", null, bearer).status())
                .isEqualTo(200);

        remove("report");
        assertThat(row("report")).hasCount(0);
        Assertions.assertThat(client.call("GET", "/api/v1/lanes", null, bearer).status())
                .isEqualTo(401);
    }

    @Test
    void storageTellsHowLongThingsAreKept() {
        go("/storage");

        assertThat(row("Messages")).containsText("90 days");
        assertThat(row("Attempts")).containsText("30 days");
    }

    private static Locator.GetByTextOptions exactly() {
        return new Locator.GetByTextOptions().setExact(true);
    }

    private void remove(String name) {
        row(name).getByText("Remove").click();
        page.getByRole(AriaRole.ALERTDIALOG).getByText("Remove", exactly()).click();
    }
}
