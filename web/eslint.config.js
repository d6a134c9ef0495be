import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

const why = 'What people read stands in src/texts, so that other languages are files.'

export default tseslint.config(
    { ignores: ['dist', 'src/api/schema.d.ts'] },
    ...tseslint.configs.strict,
    { plugins: { 'react-hooks': hooks }, rules: { ...hooks.configs.recommended.rules, '@typescript-eslint/no-non-null-assertion': 'off' } },
    {
        files: ['src/**/*.tsx'],
        ignores: ['src/**/*.test.tsx', 'src/testing/**'],
        rules: {
            'no-restricted-syntax': [
                'error',
                { selector: 'JSXText[value=/\\p{L}{2}/u]', message: why },
                {
                    selector: 'JSXAttribute[name.name=/^(aria-label|placeholder|alt|label|sub|empty|hint)$/] > Literal[value=/\\p{L}{2}/u]',
                    message: why,
                },
                { selector: 'JSXAttribute[name.name="title"] > Literal[value=/\\p{Ll}{3} |^\\p{Lu}\\p{Ll}+$/u]', message: why },
                {
                    selector: 'JSXElement > JSXExpressionContainer > ConditionalExpression > Literal[value=/\\p{L}{2}/u]',
                    message: why,
                },
                { selector: 'JSXElement > JSXExpressionContainer > TemplateLiteral > TemplateElement[value.raw=/\\p{Ll}{3}/u]', message: why },
            ],
        },
    },
)
