package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.Map;
import java.util.regex.Pattern;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.Receiver.Reply;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class ConsoleTest extends InBrowser {

    private Receiver receiver;

    @BeforeEach
    void open() {
        receiver = Receiver.answering(200);
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt("""
                inlets:
                  masts: {kind: http, at: {path: masts, credential: c}, device: data.id, simulated: has(data.sim)}
                outlets:
                  desk: {kind: http, to: {url: "%s", credential: c}}
                lanes:
                  frost-calls: {inlets: [masts], pick: data.t < 0, outlet: desk, retry: {first: 100ms, longest: 300ms}}
                """.formatted(receiver.address())));
    }

    @AfterEach
    void close() {
        receiver.close();
        client.post("/api/v1/dead/drop", Map.of("all", true));
    }

    @Test
    void aWrongPasswordIsToldBesideTheField() {
        page.getByLabel("Password").fill("wrong");
        button("Sign in").click();

        assertThat(page.getByRole(AriaRole.ALERT)).hasText("Name and password do not belong together.");
        assertThat(page.getByLabel("Password")).hasAttribute("aria-invalid", "true");
    }

    @Test
    void theOverviewSaysThatAllFlowsAndThenWhereItStops() {
        client.send("masts", "{\"id\":\"wm-1\",\"t\":-1}");
        signIn();
        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1)))
                .hasText("Everything that came in is going out.");
        assertThat(row("frost-calls")).containsText("flowing");

        receiver.answer(n -> new Reply(401, "{}"));
        client.send("masts", "{\"id\":\"wm-1\",\"t\":-1}");

        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1)))
                .hasText("1 lane is stopped: frost-calls.");
        assertThat(row("frost-calls")).containsText("refuses the credential");
        assertThat(row("frost-calls")).containsText("Save a working credential");

        receiver.answer(n -> new Reply(200, "{}"));
        button("Try desk now").click();
        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1)))
                .hasText("Everything that came in is going out.");
        assertThat(page.getByLabel("Balance of the last hour")).containsText("balanced");
    }

    @Test
    void messagesAppearByThemselvesAndOpenByKeyboard() {
        signIn();
        link("Messages").click();
        assertThat(page.getByText("live", new Page.GetByTextOptions().setExact(true)))
                .isVisible();

        String id = client.send("masts", "{\"id\":\"wm-live\",\"t\":-7,\"sim\":true}");

        assertThat(row("wm-live")).containsText("simulated");
        assertThat(row("wm-live").getByTitle("delivered")).hasText("frost-calls");
        page.keyboard().press("j");
        assertThat(row("wm-live")).isFocused();
        page.keyboard().press("Enter");

        assertThat(page).hasURL(Pattern.compile(".*/messages/" + id));
        assertThat(page.getByLabel("Body as received")).hasText("{\"id\":\"wm-live\",\"t\":-7,\"sim\":true}");
        assertThat(page.getByLabel("Request").first()).containsText("Authorization: Bearer •••");
        assertThat(page.getByLabel("Request").first()).containsText("Idempotency-Key: " + id + ".frost-calls");
    }

    @Test
    void filtersStandInTheAddressAndNarrowTheList() {
        client.send("masts", "{\"id\":\"wm-warm\",\"t\":9}");
        client.send("masts", "{\"id\":\"wm-cold\",\"t\":-9}");
        signIn();
        link("Messages").click();
        assertThat(row("wm-cold")).isVisible();

        page.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("state"))
                .click();
        page.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("unrouted"))
                .click();

        assertThat(row("wm-warm").first()).isVisible();
        assertThat(row("wm-cold")).hasCount(0);
        assertThat(page).hasURL(Pattern.compile(".*state=unrouted"));
        row("wm-warm").first().click();
        assertThat(page.getByText("is false (data.t is 9)")).isVisible();
    }

    @Test
    void aMessageThatCouldNotBeReadSaysWhy() {
        String id = client.send("masts", "{\"id\": oops");
        signIn();
        page.navigate(service.address() + "/messages/" + id);

        assertThat(page.getByText("the body is not JSON")).isVisible();
        assertThat(page.getByLabel("Body as received")).hasText("{\"id\": oops");
    }

    @Test
    void deadLettersAreRetriedAndDropped() {
        receiver.answer(n -> new Reply(422, "{}"));
        for (int i = 1; i <= 3; i++) {
            client.send("masts", "{\"id\":\"dead-" + i + "\",\"t\":-1}");
        }
        Client.await(
                () -> client.get("/api/v1/dead"), dead -> dead.path("total").asInt() == 3);
        signIn();
        link("Repair").click();
        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("3 dead letters")))
                .isVisible();

        receiver.answer(n -> new Reply(200, "{}"));
        button("Retry 1 of dead-1").click();
        assertThat(row("dead-1")).hasCount(0);
        button("Drop 1 of dead-2").click();
        page.getByRole(AriaRole.ALERTDIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Keep"))
                .click();
        assertThat(row("dead-2")).isVisible();
        page.getByLabel("Tick all").check();
        button("Drop 2 ticked").click();
        page.getByRole(AriaRole.ALERTDIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Drop"))
                .click();

        assertThat(page.getByText("No dead letters")).isVisible();
        Client.await(
                receiver::came,
                came -> came.stream()
                                .filter(one -> one.body().contains("dead-1"))
                                .count()
                        == 2);
    }

    @Test
    void thePaperCanBeDarkAndStaysSo() {
        signIn();
        button("admin").click();
        page.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Dark theme"))
                .click();
        assertThat(page.locator("html")).hasAttribute("data-theme", "dark");

        page.reload();
        assertThat(page.locator("html")).hasAttribute("data-theme", "dark");
    }

    @Test
    void signingOutEndsTheSession() {
        signIn();
        button("admin").click();
        page.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Sign out"))
                .click();

        assertThat(page.getByLabel("Password")).isVisible();
        page.navigate(service.address() + "/messages");
        assertThat(page.getByLabel("Password")).isVisible();
    }
}
