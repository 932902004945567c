package org.holtra.core.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.core.delivery.VerdictRules.Meaning;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class VerdictRulesTest {

    private static final Instant NOW = Instant.parse("2026-04-12T03:00:00Z");

    private final ExpressionCompiler compiler = new ExpressionCompiler().withVariable(Answer.VARIABLE);

    private VerdictRules.Rule rule(String when, Meaning meaning, Duration after, String because)
            throws ExpressionProblem {
        return new VerdictRules.Rule(compiler.condition(when), meaning, after, because);
    }

    private static Answer answer(String code, Object body) {
        return new Answer(code, Map.of("headers", Map.of("x-quota", "0")), body);
    }

    @Test
    void theFirstRuleThatAppliesDecides() throws ExpressionProblem {
        VerdictRules rules = new VerdictRules(List.of(
                rule("answer.body.error == 'busy'", Meaning.TRY_LATER, Duration.ofMinutes(2), null),
                rule("answer.code == '200'", Meaning.REFUSED, null, "an error inside a 200")));

        assertThat(rules.judge(answer("200", Map.of("error", "busy")), NOW))
                .contains(new Verdict.TryLater(
                        "the destination answered 200: `answer.body.error == 'busy'` holds",
                        NOW.plusSeconds(120),
                        false,
                        false));
        assertThat(rules.judge(answer("200", Map.of("error", "broken")), NOW))
                .contains(new Verdict.Refused("the destination answered 200: an error inside a 200"));
    }

    @Test
    void whereNoneAppliesTheKindsOwnDo() throws ExpressionProblem {
        VerdictRules rules = new VerdictRules(List.of(rule("answer.code == '418'", Meaning.REFUSED, null, null)));

        assertThat(rules.judge(answer("200", ""), NOW)).isEmpty();
        assertThat(VerdictRules.NONE.judge(answer("200", ""), NOW)).isEmpty();
        assertThat(VerdictRules.NONE.isEmpty()).isTrue();
        assertThat(rules.isEmpty()).isFalse();
    }

    @Test
    void aConditionOverWhatTheAnswerDoesNotHaveIsNotMet() throws ExpressionProblem {
        VerdictRules rules =
                new VerdictRules(List.of(rule("answer.body.error.code == 7", Meaning.OUTLET_BLOCKED, null, null)));

        assertThat(rules.judge(answer("500", "a text"), NOW)).isEmpty();
        assertThat(rules.judge(answer("500", Map.of()), NOW)).isEmpty();
    }

    @Test
    void headersCanBeAskedFor() throws ExpressionProblem {
        VerdictRules rules = new VerdictRules(List.of(
                rule("answer.headers['x-quota'] == '0'", Meaning.OUTLET_BLOCKED, null, "the quota is used up")));

        assertThat(rules.judge(answer("403", ""), NOW))
                .contains(new Verdict.OutletBlocked("the destination answered 403: the quota is used up"));
    }

    @ParameterizedTest
    @CsvSource({
        "delivered, delivered",
        "try-later, try later",
        "refused, refused",
        "device-held, device held",
        "outlet-blocked, outlet blocked"
    })
    void eachMeaningIsTheVerdictOfItsName(String meaning, String verdict) throws ExpressionProblem {
        VerdictRules rules =
                new VerdictRules(List.of(rule("true", Meaning.of(meaning).orElseThrow(), null, "so")));

        assertThat(rules.judge(answer("200", ""), NOW).orElseThrow().word()).isEqualTo(verdict);
    }

    @Test
    void rulesThatSayTheSameAreEqualHoweverOftenTheyWereCompiled() throws ExpressionProblem {
        VerdictRules one = new VerdictRules(List.of(rule("true", Meaning.REFUSED, null, "so")));
        VerdictRules same = new VerdictRules(List.of(rule("true", Meaning.REFUSED, null, "so")));
        VerdictRules other = new VerdictRules(List.of(rule("true", Meaning.REFUSED, null, "otherwise")));

        assertThat(one).isEqualTo(same).hasSameHashCodeAs(same).isNotEqualTo(other);
    }

    @Test
    void thereIsNoMeaningOfAnotherName() {
        assertThat(Meaning.of("retry")).isEmpty();
    }
}
