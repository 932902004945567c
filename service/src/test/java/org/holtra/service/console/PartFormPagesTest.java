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
import tools.jackson.databind.JsonNode;

/** The settings of inlets and outlets, as forms made from the schemas of their kinds. */
class PartFormPagesTest extends InBrowser {

    private static final String SETUP = """
            inlets:
              gate: {kind: http, at: {path: gate, credential: c}, device: data.id}
            outlets:
              desk: {kind: http, to: {url: "http://127.0.0.1:9/orders", headers: {accept: text/plain}}}
            """;

    @BeforeEach
    void setUp() {
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt(SETUP));
        signIn();
    }

    private Locator group(String name) {
        return page.getByRole(
                AriaRole.GROUP,
                new Page.GetByRoleOptions().setName(name + " (optional)").setExact(true));
    }

    private Locator in(String group, String button) {
        return group(group).getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(button));
    }

    @Test
    void verdictRulesPaceAndHeadersAreSaidInTheForm() {
        page.navigate(service.address() + "/outlets/desk");
        page.getByText("Verdicts, pace, batches and costs").click();
        in("Verdicts", "Add").click();
        group("Verdicts").getByLabel("When").fill("answer.status == 409 and");
        assertThat(group("Verdicts").getByRole(AriaRole.ALERT).first()).containsText("`and` was not expected here");
        assertThat(button("Apply")).isDisabled();
        group("Verdicts").getByLabel("When").fill("answer.status == 409");
        group("Verdicts").getByRole(AriaRole.COMBOBOX).click();
        page.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("outlet-blocked"))
                .click();
        group("Verdicts").getByLabel("Because (optional)").fill("the desk counts a day's orders");

        in("Pace", "Show or hide Pace").click();
        group("Pace").getByLabel("Per second (optional)").fill("2.5x");
        assertThat(group("Pace").getByRole(AriaRole.ALERT)).containsText("should be a number");
        group("Pace").getByLabel("Per second (optional)").fill("2.5");

        in("Headers", "Add").click();
        page.getByLabel("Key of newKey").fill("x-site");
        page.keyboard().press("Tab");
        assertThat(page.getByLabel("Value of x-site")).isFocused();
        page.keyboard().insertText("ashcombe");
        in("Headers", "Remove accept").click();
        button("Apply").click();
        assertThat(page.getByText("Applied as revision")).isVisible();

        JsonNode desk = client.get("/api/v1/setup/parts/outlets/desk").path("content");
        Assertions.assertThat(desk.path("verdicts").toString())
                .isEqualTo("[{\"when\":\"answer.status == 409\",\"is\":\"outlet-blocked\","
                        + "\"because\":\"the desk counts a day's orders\"}]");
        Assertions.assertThat(desk.path("pace").toString()).isEqualTo("{\"perSecond\":2.5}");
        Assertions.assertThat(desk.path("to").path("headers").toString()).isEqualTo("{\"x-site\":\"ashcombe\"}");
    }

    @Test
    void aPartThatIsEmptiedIsLeftOutOfTheSetup() {
        page.navigate(service.address() + "/inlets/gate");
        in("Duplicates", "Show or hide Duplicates").click();
        group("Duplicates").getByLabel("Within (optional)").fill("5m");
        assertThat(group("Duplicates").getByRole(AriaRole.ALERT).first()).containsText("`same` is missing");
        group("Duplicates").getByLabel("Within (optional)").fill("");
        assertThat(page.getByText("It is active as it stands.")).isVisible();
        page.getByLabel("Time (optional)").fill("data.at");
        button("Apply").click();
        assertThat(page.getByText("Applied as revision")).isVisible();
        Assertions.assertThat(client.get("/api/v1/setup/parts/inlets/gate")
                        .path("content")
                        .toString())
                .contains("\"time\":\"data.at\"")
                .doesNotContain("duplicates");
    }
}
