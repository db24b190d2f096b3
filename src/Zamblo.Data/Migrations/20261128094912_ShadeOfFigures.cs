using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class ShadeOfFigures : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Scenes that are lit already keep their look: what is new in the light starts at nothing there. 6: a change of the light.
            migrationBuilder.Sql(
                "UPDATE Scenes SET Light = json_set(CASE WHEN json_valid(Light) THEN Light ELSE '{}' END, '$.shade', 0) "
                    + "WHERE (Light <> '' AND Light <> '{}') OR Id IN (SELECT SceneId FROM Clips WHERE Kind = 6);");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {

        }
    }
}
